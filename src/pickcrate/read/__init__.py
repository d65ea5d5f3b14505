"""From a source's bytes to pages or rows: recognised by content, decoded, parsed."""
