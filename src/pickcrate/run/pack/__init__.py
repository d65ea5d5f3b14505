"""From picks to files in a crate: what is admitted, fetched, doubted, named, put in its place, and remembered."""
