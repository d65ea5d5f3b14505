"""Texts in lightweight markup other than Markdown, as a page: AsciiDoc, reStructuredText, Org, Textile and BBCode.

What shows a picture is understood, with its words, its caption and its link, and what is a heading, a link, an entry of
a list or a row of a table; all else is text.
"""

import re
from collections.abc import Callable, Iterator
from html import escape
from re import Match, Pattern

from pickcrate.media import ANY_EXTENSION
from pickcrate.read.texts.lines import Lists, cells_of, emphasised, picture, quoted, table
from pickcrate.text.lazyre import lazy

_FILE = rf"[^\s\[\]|!()\"<>]{{1,1000}}\.(?:{ANY_EXTENSION})"
_OF_LINES = re.IGNORECASE | re.MULTILINE
_LAST_LEVEL = 6

_FIRST_HEADING = lazy(r"<h\d>(?P<text>[^\n]{1,500})</h\d>")
_ENTRY = lazy(r"(?P<indent>[ \t]{0,40})(?P<mark>[-+•]|[*#.]{1,5}|(?:\d{1,9}|#)[.)])[ \t]{1,9}(?P<text>\S.*)")
_ROW = lazy(r"[ \t]{0,40}\|[^\n|]*\|")
_RULES = frozenset("|-+:= \t")
_NAMED = lazy(r"\b(?P<name>[a-z][\w-]{0,30})=(?P<said>\"[^\"\n]{0,500}\"|[^\s,\"\]]{0,500})", re.IGNORECASE)


def is_lightweight(text: str) -> bool:
    """Tell whether the beginning of a text shows a picture in one of the notations."""
    return _reader_of(text) is not None


def from_lightweight(text: str) -> str:
    """Return a text, with lines that end in line feeds, as HTML; empty if it shows no picture in a notation."""
    reader = _reader_of(text)
    if reader is None:
        return ""
    html = reader(f"{escape(text, quote=False)}\n")
    title = _FIRST_HEADING.search(html)
    head = f"<title>{title['text']}</title>" if title is not None else ""
    return head + "\n".join(_blocks(html.split("\n")))


def _blocks(lines: list[str]) -> Iterator[str]:
    """Yield lines of HTML with the entries of lists, and the rows of cells between bars, as elements."""
    lists, rows, is_behind_blank = Lists(), list[str](), True
    for line in (*lines, ""):
        if _ROW.match(line) is not None:
            rows.append(line)
            continue
        if rows:
            yield lists.left() + _table(rows)
            rows = []
        entry = _ENTRY.fullmatch(line)
        if not line.strip():
            yield "<p>"
        elif entry is not None:
            yield lists.entry(entry, emphasised(entry["text"]))
        else:
            is_behind = is_behind_blank and not line.startswith((" ", "\t"))
            yield (lists.left() if is_behind else "") + emphasised(line)
        is_behind_blank = not line.strip()


def _table(rows: list[str]) -> str:
    """Return lines of cells as a table. What is below its head, or marks it, is no cell."""
    is_headed = "|_." in rows[0] or (len(rows) > 1 and _is_rule(rows[1]))
    cells = [[emphasised(cell.removeprefix("_. ")) for cell in cells_of(row)] for row in rows if not _is_rule(row)]
    return table(cells, is_headed=is_headed) if cells else ""


def _is_rule(row: str) -> bool:
    return set(row) <= _RULES


def _reader_of(text: str) -> Callable[[str], str] | None:
    return next((reader for shown, reader in _READERS if shown.search(text) is not None), None)


def _heading(text: str, level: int) -> str:
    level = min(level, _LAST_LEVEL)
    return f"<h{level}>{text.strip()}</h{level}>"


def _marked_heading(match: Match[str]) -> str:
    """Return a heading whose level is how often its mark stands before it."""
    return _heading(match["text"], len(match["mark"]))


def _link(match: Match[str]) -> str:
    return f'<a href="{quoted(match["url"])}">{match["text"]}</a>'


def _named(said: str) -> dict[str, str]:
    """Return the attributes of a picture by their names, in lower case."""
    return {match["name"].lower(): match["said"].strip('" ') for match in _NAMED.finditer(said)}


# AsciiDoc (AsciiDoc Language Documentation: Images, and Links).

_ADOC_SHOWN = lazy(
    r"(?:^\.(?P<caption>[^\s.][^\n]{0,500})\n)?(?:^\[[^\n]{0,300}\]\n)?(?<!\w)image::?(?P<url>[^\s:\[\]][^\s\[\]]{0,1000})"
    r"\[(?P<said>[^\[\]\n]{0,1000})\]",
    re.MULTILINE,
)
_ADOC_FOLDER = lazy(r"^:imagesdir:[ \t]{1,9}(?P<folder>\S{1,300})[ \t]*$", re.MULTILINE)
_ADOC_CODE = lazy(r"^(?P<mark>-{4,40}|\.{4,40})[ \t]*\n.*?^(?P=mark)[ \t]*$", re.MULTILINE | re.DOTALL)
_ADOC_ATTRIBUTE = lazy(r"^:(?P<name>\w[\w-]{0,60}):[ \t]{1,9}(?P<said>\S[^\n]{0,300})$", re.MULTILINE)
_ADOC_REFERENCE = lazy(r"\{(?P<name>\w[\w-]{0,60})\}")
_MOST_REFERENCES = 10_000
_ADOC_LINK = lazy(r"(?:\blink:|\b(?=https?://))(?P<url>[^\s\[\]]{1,1000})\[(?P<text>[^\[\]\n]{1,500})\]")
_ADOC_HEADING = lazy(r"^(?P<mark>={1,6})[ \t]{1,9}(?P<text>\S[^\n]{0,500})$", re.MULTILINE)
_FROM_A_ROOT = lazy(r"/|[a-z]+:", re.IGNORECASE)
_ADOC_TABLE = lazy(
    r"^(?:\[(?P<said>[^\n]{0,300})\]\n)?(?:\.[^\s.][^\n]{0,500}\n)?\|={3,9}[ \t]*\n(?P<cells>.*?)^\|={3,9}[ \t]*$",
    re.MULTILINE | re.DOTALL,
)
_ADOC_COLUMNS = lazy(r"cols=\"?(?:(?P<times>\d{1,2})\*|(?P<each>[^\"\]\n]{1,200}))")
_ADOC_BAR = lazy(r"(?<!\\)(?:(?:(?<=\s)|\A)(?:[\d.]{1,4}[+*])?[<^>.]{0,3}[adehlmsv]?)?\|")
"""what begins a cell, with how it is laid out"""


def _adoc_table(match: Match[str]) -> str:
    """Return a table with each row in a line; its first line, or as many cells as are said, are as wide as it is."""
    first, *rest = match["cells"].strip().split("\n")
    is_headed = "header" in (match["said"] or "") or rest[:1] == [""]
    said = _ADOC_COLUMNS.search(match["said"] or "")
    in_first = first if first.count("|") > 1 else match["cells"].strip().partition("\n\n")[0]
    width = len(_ADOC_BAR.findall(in_first))
    if said is not None:
        width = int(said["times"]) if said["times"] else said["each"].count(",") + 1
    cells = [" ".join(cell.split()) for cell in _ADOC_BAR.split(match["cells"])[1:]]
    rows = [f"|{'|'.join(cells[at : at + width])}|" for at in range(0, len(cells), max(width, 1))]
    return "\n".join([*rows[:1], *(["|--|"] if is_headed else []), *rows[1:]])


def _from_adoc(text: str) -> str:
    said = _ADOC_FOLDER.search(text)
    folder = f"{said['folder'].rstrip('/')}/" if said is not None else ""

    def shown(match: Match[str]) -> str:
        named, first = _named(match["said"]), match["said"].partition(",")[0]
        alt = named.get("alt") or ("" if "=" in first else first.strip('" '))
        url = match["url"] if _FROM_A_ROOT.match(match["url"]) else folder + match["url"]
        caption = match["caption"] or named.get("title", "")
        return picture(url, alt, link=named.get("link", ""), caption=caption)

    attributes = {one["name"].lower(): one["said"].strip() for one in _ADOC_ATTRIBUTE.finditer(text)}
    text = _ADOC_CODE.sub("", text)
    text = _ADOC_REFERENCE.sub(lambda one: attributes.get(one["name"].lower(), one[0]), text, count=_MOST_REFERENCES)
    text = _ADOC_TABLE.sub(_adoc_table, _ADOC_SHOWN.sub(shown, text))
    text = _ADOC_HEADING.sub(_marked_heading, text)
    return _ADOC_LINK.sub(_link, text)


# reStructuredText (reStructuredText Directives: Image, and Figure; Markup Specification: Sections).

_REST_SHOWN = lazy(
    r"^(?P<indent>[ \t]{0,40})(?P<marks>(?:[*-][ \t]{1,9}){0,2})\.\.[ \t]{1,9}"
    r"(?:\|(?P<name>[^|\n]{1,100})\|[ \t]{1,9})?(?P<kind>image|figure)::[ \t]{1,9}"
    r"(?P<url>\S{1,1000}(?:\n(?P=indent)[ \t]{1,80}(?!:|\.\.)\S{1,1000}(?=[ \t]*\n)){0,5}+)[ \t]{0,99}\n"
    r"(?P<said>(?:[ \t]{1,80}:[\w-]{1,40}:[^\n]{0,1000}\n){0,20})"
    r"(?:\n(?P<caption>(?:(?P=indent)[ \t]{1,40}[^\s:.][^\n]{0,1000}\n){1,20}))?",
    _OF_LINES,
)
_REST_CODE = lazy(
    r"[ \t]{0,40}\.\.[ \t]{1,9}(?:code|code-block|sourcecode|highlight|literalinclude|parsed-literal|math|raw)::"
)
_REST_OPTION = lazy(r":(?P<name>[\w-]{1,40}):[ \t]{0,40}(?P<said>[^\n]{0,1000})")
_REST_MARKS = r"[=~^\"'`#*+:._-]"
_REST_HEADING = lazy(
    rf"(?:^(?:{_REST_MARKS}){{3,300}}\n)?^[ \t]{{0,20}}(?P<text>[^\s.][^\n]{{0,300}})\n"
    rf"(?P<mark>{_REST_MARKS})(?P=mark){{2,300}}[ \t]{{0,80}}$",
    re.MULTILINE,
)
_REST_LINK = lazy(r"`(?P<text>[^`\n]{1,500}?)[ \t]{0,9}&lt;(?P<url>[^\s`]{1,1000}?)&gt;`__?")


def _from_rest(text: str) -> str:
    levels: dict[str, int] = {}

    def shown(match: Match[str]) -> str:
        said = {option["name"].lower(): option["said"] for option in _REST_OPTION.finditer(match["said"])}
        caption = match["caption"] or ""
        is_figure = match["kind"].lower() == "figure"
        shown = picture(
            "".join(match["url"].split()),
            said.get("alt") or match["name"] or "",
            link=said.get("target", ""),
            caption=caption if is_figure else "",
        )
        shown = match["indent"] + match["marks"] + shown
        return f"{shown}\n" if is_figure else f"{shown}\n{caption}"

    def heading(match: Match[str]) -> str:
        return _heading(match["text"], levels.setdefault(match["mark"], len(levels) + 1))

    text = _REST_HEADING.sub(heading, _REST_SHOWN.sub(shown, _without_literals(text)))
    return _REST_LINK.sub(_link, text)


def _without_literals(text: str) -> str:
    """Return a text without its literal blocks, indented behind a line that ends with two colons: they show code."""
    kept: list[str] = []
    literal: int | None = None
    for line in text.split("\n"):
        indent = len(line) - len(line.lstrip())
        if literal is not None and line.strip() and indent <= literal:
            literal = None
        if literal is None:
            kept.append(line)
            ends = line.rstrip().endswith("::") and not line.lstrip().startswith(".. ")
            is_code = _REST_CODE.match(line) is not None
            literal = indent if ends or is_code else None
    return "\n".join(kept)


# Org (Org Syntax: Links, Affiliated Keywords, Headings).

_ORG_SHOWN = lazy(
    r"(?P<before>(?:^[ \t]{0,40}#\+\w{1,40}:[^\n]{0,500}\n){0,9})(?P<space>[ \t]{0,40})"
    r"\[\[(?:(?P<link>[^\[\]\n]{1,1000})\]\[)?(?:file:|(?=\.{0,2}/|https?:))(?P<url>" + _FILE + r")\]\]",
    _OF_LINES,
)
_ORG_CAPTION = lazy(r"#\+caption:[ \t]{0,40}(?P<said>[^\n]{1,500})", re.IGNORECASE)
_ORG_TITLE = lazy(r"^#\+title:[ \t]{1,40}(?P<text>[^\n]{1,500})$", _OF_LINES)
_ORG_LINK = lazy(r"\[\[(?P<url>[^\[\]\n]{1,1000})\]\[(?P<text>[^\[\]\n]{1,500})\]\]")
_ORG_HEADING = lazy(r"^(?P<mark>\*{1,6})[ \t]{1,9}(?P<text>\S[^\n]{0,500})$", re.MULTILINE)


def _from_org(text: str) -> str:
    def shown(match: Match[str]) -> str:
        caption = _ORG_CAPTION.search(match["before"])
        link = (match["link"] or "").removeprefix("file:")
        said = caption["said"] if caption is not None else ""
        return match["space"] + picture(match["url"], link=link, caption=said)

    text = _ORG_SHOWN.sub(shown, _ORG_TITLE.sub(lambda match: _heading(match["text"], 1), text))
    return _ORG_HEADING.sub(_marked_heading, _ORG_LINK.sub(_link, text))


# Textile (Textile Markup Language Documentation: Images, Headings, Links).

_TEXTILE_SHOWN = lazy(
    r"(?<![^\s(|])![<>=]?(?:\([\w -]{0,50}\))?(?P<url>" + _FILE + r")(?:\((?P<alt>[^()\n]{0,500})\))?!"
    r"(?::(?P<link>[^\s)|]{1,1000}))?",
    re.IGNORECASE,
)
_TEXTILE_HEADING = lazy(r"^h(?P<level>[1-6])\.[ \t]{1,9}(?P<text>[^\n]{1,500})$", re.MULTILINE)
_TEXTILE_LINK = lazy(r"\"(?P<text>[^\"\n]{1,500})\":(?P<url>[^\s)|]{1,1000})")


def _from_textile(text: str) -> str:
    def shown(match: Match[str]) -> str:
        return picture(match["url"], match["alt"] or "", link=match["link"] or "")

    text = _TEXTILE_LINK.sub(_link, text)
    text = _TEXTILE_HEADING.sub(lambda match: _heading(match["text"], int(match["level"])), text)
    return _TEXTILE_SHOWN.sub(shown, text)


# BBCode, as forums have it: no standard says what it is.

_BBCODE_SHOWN = lazy(
    r"\[img(?:[ =](?P<said>[^\[\]\n]{0,200}))?\]\s{0,9}(?P<url>[^\s\[\]]{1,1000})\s{0,9}\[/img\]", re.IGNORECASE
)
_BBCODE_LINK = lazy(r"\[url=[\"']?(?P<url>[^\[\]\"'\n]{1,1000})[\"']?\]", re.IGNORECASE)
_BBCODE_LINK_ENDS = lazy(r"\[/url\]", re.IGNORECASE)
_BBCODE_TAG = lazy(r"\[/?[a-z*]{1,12}(?:=[^\[\]\n]{0,200})?\]", re.IGNORECASE)


def _from_bbcode(text: str) -> str:
    def shown(match: Match[str]) -> str:
        named = _named(match["said"] or "")
        return picture(match["url"], named.get("alt", ""), title=named.get("title", ""))

    text = _BBCODE_LINK.sub(lambda match: f'<a href="{quoted(match["url"])}">', _BBCODE_SHOWN.sub(shown, text))
    return _BBCODE_TAG.sub("", _BBCODE_LINK_ENDS.sub("</a>", text))


_READERS: tuple[tuple[Pattern[str], Callable[[str], str]], ...] = (
    (_BBCODE_SHOWN, _from_bbcode),
    (_REST_SHOWN, _from_rest),
    (_ADOC_SHOWN, _from_adoc),
    (_ORG_SHOWN, _from_org),
    (_TEXTILE_SHOWN, _from_textile),
)
"""what shows a picture in each notation, and what reads it"""
