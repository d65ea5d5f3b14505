"""A ledger that was empty when its run began has for certain not got most of what it is asked for."""


class Begun:
    """What such a ledger may have: texts that were put into it in this run. What else is asked for is new."""

    def __init__(self) -> None:
        self.contents = Filter()
        self.addresses = Filter()
        self.names = Filter()
        self._last = 0

    def add(self, address: str, name_key: str) -> int:
        """Note one more row: it may be asked for from now on. Return its number."""
        self._last += 1
        self.addresses.add(address)
        self.names.add(name_key)
        return self._last


class Filter:
    """Tells of most texts that were not added that they were not, in little memory (a Bloom filter).

    Of 100,000 texts one in seven thousand that is new may be there for all it knows, of a million one in eighty.
    """

    def __init__(self) -> None:
        self._bits = bytearray(1 << 21)

    def add(self, text: str) -> None:
        """Add a text."""
        mixed, bits = hash(text), self._bits
        bits[mixed >> 3 & 0x1FFFFF] |= 1 << (mixed & 7)
        bits[mixed >> 27 & 0x1FFFFF] |= 1 << (mixed >> 24 & 7)

    def may_have(self, text: str) -> bool:
        """Tell whether a text may have been added; False is certain."""
        mixed, bits = hash(text), self._bits
        is_first = bits[mixed >> 3 & 0x1FFFFF] >> (mixed & 7) & 1
        return bool(is_first and bits[mixed >> 27 & 0x1FFFFF] >> (mixed >> 24 & 7) & 1)
