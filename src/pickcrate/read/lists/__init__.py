"""Lists of addresses and tables of pictures, row by row."""
