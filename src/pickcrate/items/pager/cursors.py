"""Where an answer of an interface for programs goes on, if it states no address: by a cursor, or by what it counts.

The next answer is asked for by the address of this one, with another parameter: the cursor or the number that it says
(``nextCursor``, ``next_page_token``; SRU 2.0: ``nextRecordPosition``), or the number after its own (OpenSearch 1.1:
``startIndex``, ``startPage``, ``count``; JSON:API 1.1: ``page[number]``; OData 4.01: ``$skip``). An interface that does
not know the parameter answers as before, which ends the list.
"""

from collections.abc import Iterator, Mapping
from urllib.parse import quote, unquote_plus

from msgspec import Struct

from pickcrate.addresses.ranks import bare_name
from pickcrate.items.data.answers import Answer, plain
from pickcrate.items.pager.counting import OFFSETS, PAGES
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole

_OFFSETS_BESIDE_SIZES = frozenset(("from",))
"""what may be a year or a place as well"""

_PAGES = frozenset(map(bare_name, PAGES)) | frozenset("pageindex currentpage startpage".split())
_OFFSETS = frozenset(map(bare_name, OFFSETS - _OFFSETS_BESIDE_SIZES)) | frozenset(
    "startindex startrecord pageoffset firstrecord resultoffset".split()
)
"""what interfaces call the number of a page, and of the first member of one, besides what pages do"""

_SIZES = frozenset(
    "limit rows perpage pagesize size count num top maxresults maximumrecords hitsperpage itemsperpage resultsperpage "
    "pagelimit take resultrecordcount".split()
)
"""how many members an answer has at most"""

_TOTALS = frozenset(
    "total totalcount totalresults totalitems totalhits totalrecords totalelements numfound nbhits totalrows rowcount "
    "recordcount numberofrecords totalfound".split()
)
_COUNTS = frozenset(("count", "resultcount"))
"""the number of all that there are, or of the members of one answer"""

_PAGE_COUNTS = frozenset("pages totalpages pagecount lastpage nbpages numpages totalpagecount".split())
_MORE = frozenset("hasmore hasnext hasnextpage more moreavailable hasmoreitems exceededtransferlimit".split())
_NO_MORE = frozenset("islast islastpage endofrecords lastpage last isend".split())

_CURSOR = lazy(
    r"next(?:page)?(?:token|cursor|cursormark|mark|key|offset|start|skip|startindex|recordposition)?"
    r"|(?:next)?(?:continuation|resumption)token|cursor|bookmark|after|endcursor"
)
"""what answers call the cursor of what comes next"""

_ASKED_BY = frozenset(
    "cursor cursormark after pagetoken nexttoken token continuationtoken resumptiontoken paginationtoken startafter "
    "startingafter searchafter nextcursor scrollid".split()
)
"""what the parameter of a cursor is called"""

_OTHERWISE = {"nextrecordposition": "startRecord", "endcursor": "after"}
"""the parameters of cursors that are called otherwise than it is"""

_AROUND = frozenset(("cursor", "cursors"))
"""what objects are called around a cursor"""

_BACK = "before"
"""what is called the cursor of what came before, beside that of what comes after"""

_LONGEST_CURSOR = 2_000


class Further(Struct, frozen=True):
    """Where an answer may go on, and whether that is only likely: it does not say whether there is more."""

    url: str
    is_guess: bool = False


class _Parameter(Struct, frozen=True):
    """A parameter of an address, and of what it is called in any writing: ``page[number]`` is ``pagenumber``."""

    name: str
    value: str

    @property
    def folded(self) -> str:
        return bare_name(self.name)


def further_answers(answer: Answer, address: str) -> Iterator[Further]:
    """Yield where an answer goes on that came from ``address``; nothing where it says that it ends, or says nothing."""
    asked, stated = _parameters(address), _Stated(answer)
    if stated.ends:
        return
    by_cursor = [*_continued(answer), *_by_cursor(answer, asked)]
    yield from dict.fromkeys(Further(_with(address, changes)) for changes in by_cursor)
    if not by_cursor:
        yield from _by_number(answer, stated, asked, address)


def _continued(answer: Answer) -> Iterator[dict[str, str]]:
    """Yield the parameters that an answer says the next request has besides its own."""
    stated = answer.objects[0].get("continue") if answer.objects else None
    if isinstance(stated, dict) and (changes := {name: said for name, one in stated.items() if (said := _cursor(one))}):
        yield changes


def _by_cursor(answer: Answer, asked: list[_Parameter]) -> Iterator[dict[str, str]]:
    """Yield the parameter of each cursor that an answer states."""
    for around, name, value in _cursors(answer):
        folded = bare_name(name)
        stem = folded.removeprefix("next") or around
        own = next((one.name for one in asked if one.folded in {folded, stem}), "")
        if not own and (folded in {"next", "nextpage"} or not stem):
            own = next((one.name for one in asked if one.folded in _ASKED_BY or one.folded in _PAGES), "")
        if parameter := own or _called(name, folded, around):
            yield {parameter: value}


def _cursors(answer: Answer) -> Iterator[tuple[str, str, str]]:
    """Yield the cursors that an answer states: what the object around each is called, its own name, and what it is."""
    for outer in answer.objects:
        for name, inner in outer.items():
            folded = bare_name(plain(name))
            if isinstance(inner, dict) and folded in _AROUND:
                within = ((own, one) for own, one in inner.items() if _CURSOR.fullmatch(bare_name(own)) is not None)
                yield from (("cursor", own, said) for own, one in within if (said := _cursor(one)))
                continue
            is_one = _CURSOR.fullmatch(folded) is not None and (folded != "after" or _BACK in outer)
            if is_one and (said := _cursor(inner)):
                yield "", plain(name), said


def _called(name: str, folded: str, around: str) -> str:
    """Return what the parameter of a cursor is called that no address has yet; empty if that is unknown."""
    if folded in _OTHERWISE:
        return _OTHERWISE[folded]
    if folded == "next":
        return around
    if folded == "nexttoken" or not folded.startswith("next"):
        return name
    bare = name[len("next") :].lstrip("_-")
    return bare[:1].lower() + bare[1:]


def _cursor(value: object) -> str:
    """Return a cursor as text; empty if a value is none: an address, a sentence, true or false."""
    if not value or isinstance(value, bool) or not isinstance(value, str | int):
        return ""
    said = str(value)
    is_cursor = 0 < len(said) <= _LONGEST_CURSOR and not (said[0] in "/?" or "://" in said or " " in said)
    return said if is_cursor else ""


def _by_number(answer: Answer, stated: "_Stated", asked: list[_Parameter], address: str) -> Iterator[Further]:
    """Yield the address with the number after that of this answer: in its address, or said by the answer alone."""
    own = _counter(asked)
    counter = own or stated.place()
    if counter is None or not answer.members:
        return
    size = next(iter(_sizes(asked)), 0) or stated.number(_SIZES - _COUNTS) or answer.members
    goes_on = stated.goes_on(counter[1], size, is_page=bare_name(counter[0]) in _PAGES)
    if goes_on or (goes_on is None and own is not None):
        yield Further(_next_of(address, counter, size), is_guess=goes_on is None)


def next_by_count(address: str) -> str:
    """Return the address that counts on from one; empty of one that does not count, or not by how many."""
    asked = _parameters(address)
    counter, size = _counter(asked), next(iter(_sizes(asked)), 0)
    is_known = counter is not None and (size or bare_name(counter[0]) in _PAGES)
    return _next_of(address, counter, size) if counter is not None and is_known else ""


def _counter(asked: list[_Parameter]) -> tuple[str, int] | None:
    """Return the parameter that counts, and its number."""
    names = _PAGES | _OFFSETS | (_OFFSETS_BESIDE_SIZES if _sizes(asked) else frozenset())
    counting = ((one.name, whole(one.value)) for one in asked if one.folded in names)
    return next(((name, number) for name, number in counting if number is not None), None)


def _sizes(asked: list[_Parameter]) -> list[int]:
    """Return how many members are asked for."""
    return [int(one.value) for one in asked if one.folded in _SIZES and whole(one.value)]


def _next_of(address: str, counter: tuple[str, int], size: int) -> str:
    """Return an address with the next number: that of a page, or that of the first of as many members further on."""
    name, number = counter
    return _with(address, {name: str(number + (1 if bare_name(name) in _PAGES else size))})


class _Stated:
    """What an answer says of its place among all that there are."""

    def __init__(self, answer: Answer) -> None:
        self._members = answer.members
        self._said: dict[str, tuple[str, object]] = {}
        for outer in answer.objects:
            for name, inner in outer.items():
                self._said.setdefault(bare_name(plain(name)), (plain(name), inner))
        is_more = self._flag(_MORE)
        is_last = self._flag(_NO_MORE)
        self.ends = is_more is False or is_last is True
        """whether it says that nothing follows"""
        self._is_more = is_more is True or is_last is False

    def _flag(self, names: frozenset[str]) -> bool | None:
        """Return what is said, true or false, under the first of some names; None if nothing is."""
        said = (value for name, (_, value) in self._said.items() if name in names and isinstance(value, bool))
        return next(said, None)

    def number(self, names: frozenset[str]) -> int:
        """Return the first number under one of some names; 0 if there is none."""
        said = (_count(value) for name, (_, value) in self._said.items() if name in names)
        return next(filter(None, said), 0)

    def place(self) -> tuple[str, int] | None:
        """Return what the number of the answer is called, as its parameter would be, and the number."""
        for folded, (name, value) in self._said.items():
            if folded in _PAGES | _OFFSETS and isinstance(value, int) and not isinstance(value, bool):
                return ("page" if folded == "currentpage" else name), value
        return None

    def goes_on(self, number: int, size: int, *, is_page: bool) -> bool | None:
        """Tell whether there is more behind the answer of a number; None if that is not said."""
        if self._is_more:
            return True
        if is_page and (pages := self.number(_PAGE_COUNTS)):
            return number < pages
        total = self.number(_TOTALS)
        if not total and (count := self.number(_COUNTS)) > self._members:  # else it is that of its own members
            total = count
        return (number * size if is_page else number + size) < total if total else None


def _count(value: object) -> int:
    """Return a number of things, also one that is written as a text or in an object of its own; 0 if it is none."""
    if isinstance(value, dict):
        value = value.get("value")
    if isinstance(value, str):
        return whole(value) or 0
    return value if isinstance(value, int) and not isinstance(value, bool) else 0


def _parameters(address: str) -> list[_Parameter]:
    query = address.partition("#")[0].partition("?")[2]
    pairs = (part.partition("=") for part in query.split("&") if part)
    return [_Parameter(unquote_plus(name), unquote_plus(value)) for name, _, value in pairs]


def _with(address: str, changes: Mapping[str, str]) -> str:
    """Return an address with other values for some parameters; the others stay as they are written."""
    bare, _, query = address.partition("#")[0].partition("?")
    kept = [part for part in query.split("&") if part and unquote_plus(part.partition("=")[0]) not in changes]
    quoted = ((quote(name, safe="$[]"), quote(said, safe="")) for name, said in changes.items())
    added = map("=".join, quoted)
    return f"{bare}?{'&'.join([*kept, *added])}"
