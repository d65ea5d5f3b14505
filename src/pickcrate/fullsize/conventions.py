"""The conventions by which addresses name a picture in a smaller size: rows of ``rules.toml`` and ``plain.toml``."""

import json
import pkgutil
import re
from base64 import b64encode, urlsafe_b64decode
from collections.abc import Iterator
from functools import lru_cache
from urllib.parse import unquote

from msgspec import Struct

from pickcrate.addresses.url import absolute, image_type, origin, path_of, site
from pickcrate.text.lazyre import lazy

_NOTES = lazy(r"^(?:orig|original)(?:Width|Height|Format)=", re.IGNORECASE)
_EDITS = frozenset(("edits", "outputFormat", "effort"))
TABLES = ("rules.toml", "plain.toml")
"""what is marked first, then what is only plausible"""

_GROUP = re.compile(r"\\(?:g<)?(\d)>?")
_WORD = re.compile(r"\(\?&(\w+)\)")
_FIELD = lazy(r"(?m)^(\w+) = (\S.*)$")
_BARE_HOST = lazy(r"[\w-]+(?:\.[\w-]+)*\.[a-z]{2,}/", re.IGNORECASE)


class Rule(Struct, frozen=True):
    """One convention: a pattern over the path, and how the larger version's address is made of it."""

    name: str
    sure: bool
    path: re.Pattern[str]
    host: re.Pattern[str] | None
    to: str
    inner: str
    parameter: re.Pattern[str] | None
    query: str
    host_to: str
    has: str = ""
    """what stands in every path that the pattern is found in, and is looked for first: an expression costs more"""
    claims: bool = False
    """what a parameter holds must be called an image: any program may have such a parameter"""
    is_copy: bool = False
    """what is shown is a copy of the file in another format"""
    beside: tuple[str, ...] = ()
    """words that take the place of ``{word}`` in ``to`` and in the name, one after the other"""

    @property
    def leads_to_original(self) -> bool:
        """Whether it leads to what the shown picture was made of: of equal size that is the better one."""
        return self.is_copy or bool(self.inner) or self.parameter is not None

    def apply(self, url: str) -> list[tuple[str, str]]:
        """Return what this convention makes of ``url``, with its name; nothing if that has another form."""
        match = self.path.search(path_and_query(url)[0])
        return list(self.rewrite(url, match)) if match is not None else []

    def rewrite(self, url: str, match: re.Match[str]) -> Iterator[tuple[str, str]]:
        """Yield what ``apply`` does, of an address in whose path the pattern was found."""
        if self.host is not None and self.host.search(site(url)) is None:
            return
        if self.inner:
            carried = self._carried(url, match)
            if carried is not None:
                yield carried, self.name
            return
        said = match["word"] if "word" in match.re.groupindex else ""
        for word in self.beside or ("",):
            name = self.name.replace("{word}", word).replace("{said}", said.casefold())
            yield self._moved(url, match, self.to.replace("{word}", _like(word, said))), name

    def _moved(self, url: str, match: re.Match[str], to: str) -> str:
        path, query = match.string, path_and_query(url)[1]
        rewritten = path[: match.start()] + _filled(to, match) + path[match.end() :]
        kept = {"keep": query, "drop": ""}.get(self.query, self.query)
        whole = f"{rewritten}?{kept}" if kept else rewritten
        if self.host is None or not self.host_to:
            return origin(url) + whole
        return f"{url.partition('://')[0]}://{self.host.sub(self.host_to, site(url))}{whole}"

    def _carried(self, url: str, match: re.Match[str]) -> str | None:
        """Return the address of the original that an address carries inside."""
        query = path_and_query(url)[1]
        if self.parameter is not None:
            return self._from_parameter(url, query)
        return _decoded(match["inner"], self.inner, url, query)

    def _from_parameter(self, url: str, query: str) -> str | None:
        named = dict(part.partition("=")[::2] for part in query.split("&"))
        for name, value in named.items():
            if self.parameter is None or self.parameter.fullmatch(name) is None:
                continue
            inner = _decoded(value, self.inner, url, "")
            if inner is not None and (image_type(inner) is not None or not self.claims):
                return inner
        return None


def path_and_query(url: str) -> tuple[str, str]:
    """Return the path of an address, and its query; a query that is a path is part of it: ``i.php?/upload/red.jpg``."""
    path, query = path_of(url), url.partition("?")[2]
    return (f"{path}?{query}", "") if query.startswith("/") else (path, query)


class Table(Struct, frozen=True):
    """Conventions that stand in one file, in its order, and what every path has that one of them fits."""

    rules: tuple[Rule, ...]
    sure: tuple[Rule, ...]
    plausible: tuple[Rule, ...]
    sign: re.Pattern[str] | None
    """None: not known, so that each is tried"""

    def that_may_fit(self, path: str, *, sure: bool) -> list[Rule]:
        """Return those that are sure, or those that are only plausible, as far as they may fit a path."""
        rules = self.sure if sure else self.plausible
        return [rule for rule in rules if rule.has in path] if rules and self.has_sign(path, default=True) else []

    def has_sign(self, path: str, *, default: bool = False) -> bool:
        """Tell whether a path has the sign; the default where none is known."""
        return self.sign.search(path) is not None if self.sign is not None else default


@lru_cache(maxsize=1)
def tables() -> tuple[Table, ...]:
    """Return the tables: what is marked first, then what is only plausible."""
    return tuple(map(_read, TABLES))


def _read(name: str) -> Table:
    text = (pkgutil.get_data("pickcrate.fullsize", name) or b"").decode("utf-8")
    head, *rows = text.split("[[rule]]")
    words: dict[str, str] = {}
    for word, pattern in fields_of(head).items():
        words[word] = spelled_out(pattern, words)
    rules = tuple(_rule_of(fields_of(row), words) for row in rows)
    sure = tuple(rule for rule in rules if rule.sure)
    plausible = tuple(rule for rule in rules if not rule.sure)
    return Table(rules, sure, plausible, lazy(words["sign"]) if "sign" in words else None)


def _rule_of(row: dict[str, str], words: dict[str, str]) -> Rule:
    return Rule(
        name=row["name"],
        sure=row["sure"] == "true",
        path=lazy(spelled_out(row["path"], words)),
        host=lazy(row["host"]) if "host" in row else None,
        to=row.get("to", ""),
        inner=row.get("inner", ""),
        parameter=lazy(row["parameter"], re.IGNORECASE) if "parameter" in row else None,
        query=row.get("query", "keep"),
        host_to=row.get("host_to", ""),
        has=row.get("has", ""),
        claims=row.get("claims") == "true",
        is_copy=row.get("copy") == "true",
        beside=tuple(row.get("beside", "").split()),
    )


def _filled(template: str, match: re.Match[str]) -> str:
    """Return what ``match.expand`` does of groups by number; that takes a template apart anew up to Python 3.11."""
    return "".join(match[int(piece)] or "" if place % 2 else piece for place, piece in enumerate(_pieces(template)))


@lru_cache(maxsize=1_024)
def _pieces(template: str) -> list[str]:
    """Return the texts of a template, and between them the numbers of groups."""
    return _GROUP.split(template)


def spelled_out(pattern: str, words: dict[str, str]) -> str:
    """Return a pattern with what ``(?&name)`` stands for in its place."""
    return _WORD.sub(lambda match: f"(?:{words[match[1]]})", pattern) if "(?&" in pattern else pattern


def _like(word: str, other: str) -> str:
    """Return a word begun with a capital, or in capitals, if another is."""
    if other.isupper() and (len(other) > 1 or len(word) == 1):
        return word.upper()
    return word.capitalize() if other[:1].isupper() else word


def fields_of(row: str) -> dict[str, str]:
    """Return the fields of a row: a line each, without escapes.

    The tests hold this against ``tomllib``, which takes a tenth of the time that a short list takes as a whole.
    """
    return {name: text.strip("'\"") for name, text in _FIELD.findall(row)}


def _without_edits(raw: str, url: str) -> str | None:
    """Return the address with its request, in base64 of JSON, but for what alters the picture; None if nothing does."""
    try:
        asked = json.loads(urlsafe_b64decode(raw.rstrip("=") + "=" * (-len(raw.rstrip("=")) % 4)))
    except (ValueError, RecursionError):
        return None
    if not isinstance(asked, dict) or "key" not in asked or asked.keys().isdisjoint(_EDITS):
        return None
    left = {name: value for name, value in asked.items() if name not in _EDITS}
    said = json.dumps(left, separators=(",", ":"), ensure_ascii=False).encode()
    return f"{origin(url)}/{b64encode(said).decode()}"


def _decoded(raw: str, encoding: str, url: str, query: str) -> str | None:
    """Return the address that a resizer carries inside, absolute, or None if it is none."""
    match encoding:
        case "base64":
            octets = raw.replace("/", "").rstrip("=")
            try:
                text = urlsafe_b64decode(octets + "=" * (-len(octets) % 4)).decode("utf-8")
            except ValueError:
                return None
        case "percent":
            text = unquote(raw)
        case "hex":
            try:
                text = bytes.fromhex(raw).decode("utf-8")
            except ValueError:
                return None
        case "whole":
            text = unquote(raw)
            if not text.startswith(("http://", "https://")):
                return None
        case "edits":
            return _without_edits(raw, url)
        case _:
            text = raw
    text = re.sub(r"^(https?:)/+", r"\1//", text)
    inner, _, notes = text.partition("?")
    if _NOTES.match(notes):
        text = inner
    if not text.startswith(("http://", "https://", "/")):
        if _BARE_HOST.match(text) is None:
            return absolute(text, url) if image_type(absolute(text, url) or "") else None
        text = f"{'http' if 'ssl=0' in query else 'https'}://{text}"
    return absolute(text, url)
