"""The first door: bytes from the network, many at once and with manners."""
