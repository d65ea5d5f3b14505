"""A plain list of addresses, one a line; blank lines and lines that start with ``#`` are passed over.

A line of words with addresses among them stands for those.
"""

import re
from collections.abc import Iterable, Iterator

from msgspec import Struct

from pickcrate.addresses.url import absolute, image_type, is_picture_path, is_web, lacks_scheme, looks_like_web
from pickcrate.text.lazyre import lazy
from pickcrate.values.flaw import Flaw
from pickcrate.values.foundin import FoundIn
from pickcrate.values.image import Image
from pickcrate.values.reference import Reference, Words, fold
from pickcrate.values.trust import PUBLIC, Trust

_AMONG_WORDS = lazy(r"https?://[^\s<>\"'`\\]{1,2000}", re.IGNORECASE)
_OPENING = lazy(r"\A(?:(?:[-*+•]|\d{1,5}[.)])\s+)?[\"'“”]?")
_CLOSING = ",;\"'“”"
_BEHIND_ADDRESSES = ".,;:!?*_)]}"
_WORDS = lazy(r"\"[^\"]*\"|'[^']*'|“[^”]*”|(?:\\.|[^\s\\])+")
"""words of a command: what is in quotes is one, with its spaces (POSIX.1-2017, 2.2)"""

_QUOTES = "\"'“”,;()[]"
_BETWEEN = " -–—:=|<>()[]\"'“”,;"
"""what stands between an address and the words beside it"""

_OPTION = lazy(r"(?:^| )--?[A-Za-z]")
_NO_WORDS = Words()
_LONGEST_COMMAND = 3_000
_SEVERAL = 2
_LISTED = ("file:", "data:")
_PICKED = (*_LISTED, "cid:")
"""schemes of what a list may name that is not on the web"""


class Entry(Struct, frozen=True):
    """What may be an address on a line, with the line's number, and what stands beside it: a file's name, or words."""

    line: int
    address: str
    name: str = ""
    words: str = ""


def addresses_in(lines: Iterable[str]) -> Iterator[Entry]:
    """Yield what may be an address on each line; it may be in brackets (RFC 3986, C)."""
    for place, line in enumerate(lines, 1):
        address = line.strip().removeprefix("\ufeff")
        if address.startswith("<") and address.endswith(">"):
            address = address[1:-1].removeprefix("URL:").strip()
        if address.startswith("#"):
            continue
        address = _without_marks(address)
        several = list(addresses_among(address)) if "://" in address and " " in address else []
        name = _name_beside(address) if len(several) == 1 else ""
        is_one = address.lower().startswith(("http", *_PICKED)) and address.count("://") < _SEVERAL
        if is_one and not (several and image_type(several[0]) is not None):  # with a space in it
            several, name = [], ""
        words = words_beside(address) if len(several) == 1 and not name else ""
        yield from (Entry(place, one, name, words) for one in several or filter(None, [address]))


def _without_marks(line: str) -> str:
    """Return an address without what lists in texts and in programs have around it: ``- …``, ``1. …``, ``"…",``."""
    if line[-1:] not in _CLOSING and line[:1].isalpha():  # as most are
        return line
    bare = _OPENING.sub("", line, count=1).rstrip(_CLOSING)
    return bare if looks_like_web(bare) or lacks_scheme(bare) else line


def addresses_among(words: str) -> Iterator[str]:
    """Yield the addresses of the web that stand among words, without what ends a sentence, brackets or a tag."""
    for found in _AMONG_WORDS.findall(words):
        address = found.partition("[/")[0]
        while address[-1] in _BEHIND_ADDRESSES and not _closes_its_own(address):
            address = address[:-1]
        yield address


def without_addresses(words: str) -> str:
    """Return words without the addresses among them."""
    return _AMONG_WORDS.sub(" ", words)


def words_beside(line: str) -> str:
    """Return what a line says beside the addresses in it, as far as it is for people; empty if it is a command."""
    words = fold(without_addresses(line)).strip(_BETWEEN)
    is_command = _OPTION.search(words) is not None or (words.islower() and line.startswith(f"{words} http"))
    return "" if is_command else words


def names_one(line: str) -> bool:
    """Tell whether a line has one address, and beside it the name that its file is to have: ``save red.jpg https://…``."""
    return len(_AMONG_WORDS.findall(line)) == 1 and bool(_name_beside(line))


def _name_beside(line: str) -> str:
    """Return the name of the one file that words around an address name; empty if they name none, or several."""
    words = (word.strip(_QUOTES) for word in _WORDS.findall(without_addresses(line[:_LONGEST_COMMAND])))
    # What begins with a slash is where a server has it, in its log.
    files = [word.replace("\\ ", " ") for word in words if is_picture_path(word) and word[0] != "/"]
    return re.split(r"[/\\]", files[0])[-1] if len(files) == 1 else ""


def _closes_its_own(address: str) -> bool:
    return address.endswith(")") and address.count("(") >= address.count(")")


class ListOrigin(Struct, frozen=True):
    """Where a list is from, and so what its relative addresses mean."""

    source: str
    base: str = ""
    """what they count from, as the user said; a picture's path counts from ``home`` without it"""
    home: str = "about:blank"
    """the list's own address"""
    trust: Trust = PUBLIC
    title: str = ""
    """what it is called"""
    is_of_pages: bool = False
    """whether any path counts from ``home``, and not a picture's alone"""

    def resolve(self, raw: str, *, is_picked: bool = False) -> str | None:
        """Return an entry as an absolute address; None if it is none.

        A pick list (``is_picked``) may name what was inside a message as well.
        """
        is_on_disk = self.home.startswith("file:") and is_picture_path(raw)  # folders of kept sites are called so too
        if lacks_scheme(raw) and not is_on_disk:
            raw = f"https://{raw}"
        url = absolute(raw, self.base or "about:blank")
        is_path = self.is_of_pages or is_picture_path(raw)
        if url is None and is_path and not self.base and not self.home.startswith("about:"):
            url = absolute(raw, self.home)
        is_taken = url is not None and (is_web(url) or url.startswith(_PICKED if is_picked else _LISTED))
        return url if is_taken else None

    def advice(self, raw: str) -> str:
        """Return what to do about an entry that is no address, if it may be a relative one."""
        is_path = "/" in raw and not any(map(str.isspace, raw)) and "://" not in raw
        return " (--base URL says what it counts from)" if is_path and not self.base else ""


def read_addresses(lines: Iterable[str], origin: ListOrigin, *, first_number: int = 1) -> Iterator[Image | Flaw]:
    """Yield an image a line, in order, without holding the list; a line that is no picture's address is a flaw.

    Lists pass without grouping: what the list's writer names twice is two rows.
    """
    number = first_number
    for entry in addresses_in(lines):
        raw = entry.address
        url = origin.resolve(raw)
        if url is None:
            yield Flaw("address", f"line {entry.line} is not a web address: {raw[:80]}{origin.advice(raw)}")
            continue
        yield listed_image(url, raw, origin, number, name=entry.name, words=entry.words)
        number += 1


def listed_image(url: str, raw: str, origin: ListOrigin, number: int, *, name: str = "", words: str = "") -> Image:
    """Return an entry of a list of addresses, which says no more than its name or its words, as a picture."""
    said = Words(title=words) if words else _NO_WORDS
    reference = Reference(url, raw, "", FoundIn.LIST, "", "", number, words=said, trust=origin.trust)
    return Image(number, origin.source, reference, (reference,), list_title=origin.title, name=name)
