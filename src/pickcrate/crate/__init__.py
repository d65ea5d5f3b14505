"""The second door: the named folder of pictures, its ledger and its list."""
