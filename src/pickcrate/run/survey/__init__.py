"""One page with all that it is made of: how it is asked for, its sheets, its frames, and what bars the way to it."""
