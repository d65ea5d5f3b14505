"""Elements of a parsed document: their words, what they have from those around them, what selects them."""
