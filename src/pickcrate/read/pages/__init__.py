"""One document: its bytes decoded, parsed, with its base URL, and what it says of itself."""
