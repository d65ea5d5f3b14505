"""What an address says: its parts by the URL standard, and the names in it."""
