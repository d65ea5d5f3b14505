"""Addresses of the pages of one list: alike but for a number, which counts the pages or the entries before one."""

import re
from enum import Enum
from urllib.parse import urlsplit

from msgspec import Struct

from pickcrate.addresses.url import bare_host
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole

PAGES = frozenset("page p pg paged pagenum page_no pageno page_number seite pagina pag side strona sida".split())
OFFSETS = frozenset("start offset from skip b_start b_start:int".split())
"""parameters that count pages, and the entries before one"""

_PARAMETER = lazy(rf"(?:{'|'.join(sorted(PAGES | OFFSETS))})=(\d{{1,6}})", re.IGNORECASE)
_CURSOR = lazy(
    r"(?:cursor|after|before|until|since|max_id|page_?token|next_?token|continue)=(.+)",
    re.IGNORECASE,
)
"""a parameter that says after which entry a page begins"""

_IN_PATH = lazy(
    r"(?:/(?:page|p|pg|seite|pagina|pag|side|strona)[/-]?|[-_](?:page|p|seite)?)(\d{1,6})(?=/?$|\.\w{1,5}$)|"
    r"(?<=[a-z])(\d{1,4})(?=\.(?:x?html?|php|aspx?|jsp)$)",
    re.IGNORECASE,
)
_PLAIN = lazy(r"(?<![/-]\d{4})/([1-9]\d{0,2})(?=/?$)")
"""a number alone, that is no month's: only where a link says that it leads on"""
_ENTRANCE = lazy(r"(?:/(?:index|default|home))?(?:\.(?:x?html?|php|aspx?|jsp))?/?$", re.IGNORECASE)


class Place(Struct, frozen=True):
    """Where an address stands in a list: its number, and what it has in common with the list's other addresses."""

    host: str
    path: str
    query: frozenset[str]
    number: int | None = None
    """None if it has none, or several that might count"""
    may_be_id: bool = False
    """whether its number may be that of a text as well, as in ``?p=57``"""
    cursor: str = ""
    """the entry after which its page begins, if it says so"""

    def goes_on_at(self, other: "Place", *, is_said: bool = False) -> bool:
        """Tell whether another address is of a page of the list that this one is a page of, by number or by entry.

        What may be the number of a text must be that of the next page, unless it ``is_said`` to be a page: some count
        from 0.
        """
        if (other.host, other.path) != (self.host, self.path) or not self.query <= other.query:
            return False
        if other.may_be_id and not is_said:
            return other.number == (self.number or 1) + 1
        return (other.number is not None and other.number != self.number) or other.cursor not in {"", self.cursor}


class Counted(Enum):
    """Where the number of a page is looked for in an address, besides its query."""

    IN_PATH = "marked in the path"
    PLAIN = "alone in the path"
    NOT_IN_PATH = "not in the path"


def readings_of(address: str) -> tuple[Place, ...]:
    """Return where an address may stand in a list, by each way of counting."""
    return tuple(place_of(address, counted) for counted in Counted)


def place_of(address: str, counted: Counted = Counted.IN_PATH) -> Place:
    """Return where an address stands in a list."""
    parts = urlsplit(address)
    numbers: list[str] = []
    query: list[str] = []
    may_be_id, cursor = False, ""
    for parameter in filter(None, parts.query.split("&")):
        if (match := _PARAMETER.fullmatch(parameter)) is not None:
            numbers.append(match[1])
            may_be_id = parameter[:2].lower() == "p="
        elif (match := _CURSOR.fullmatch(parameter)) is not None:
            cursor = match[1]
        else:
            query.append(parameter)
    path = parts.path
    found = _IN_PATH.search(path) if counted is not Counted.NOT_IN_PATH else None
    if found is None and counted is Counted.PLAIN:
        found = _PLAIN.search(path)
    if found is not None:
        numbers += filter(None, found.groups())
        path = path[: found.start()] + path[found.end() :]
    number = whole(numbers[0]) if len(numbers) == 1 else None
    if len(numbers) > 1:  # which of them counts cannot be told
        path, query = parts.path, parts.query.split("&")
    return Place(bare_host(parts.netloc), _ENTRANCE.sub("", path), frozenset(query), number, may_be_id, cursor)
