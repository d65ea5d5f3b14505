"""What may be asked of a run: the table of settings, how each is given and read, slips, and the order they make."""
