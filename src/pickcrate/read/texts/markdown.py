"""Notes in Markdown, as a page (CommonMark 0.31, with tables, and what notes add to it).

What tells pictures and their words is understood: headings, lists, tables, pictures, links, their definitions,
emphasis, code. All else is left as it is, HTML as well.
"""

from collections.abc import Iterator
from html import escape
from itertools import repeat
from re import Match

from pickcrate.text.lazyre import lazy

_MATTER = lazy(r"(?m)---[ \t]*\n(?P<matter>(?:(?!---[ \t]*$).*\n){0,200})---[ \t]*\n")
_TITLE = lazy(r"(?m)^title:[ \t]*[\"']?(?P<title>[^\n\"']{1,300})")
_FIRST_HEADING = lazy(r"(?m)^#[ \t]+(?P<title>[^\n]{1,300})")
_HEADING = lazy(r" {0,3}(?P<marks>#{1,6})[ \t]+(?P<text>.*)")
_FENCE = lazy(r" {0,3}(?:`{3,}|~{3,})")
_UNDERLINE = lazy(r" {0,3}(?P<mark>[=-])(?P=mark){1,200}[ \t]*")
_RULE = lazy(r" {0,3}(?P<mark>[-*_])(?:[ \t]{0,9}(?P=mark)){2,100}[ \t]*")
_QUOTED = lazy(r"\A(?: {0,3}> ?){1,9}")
_ENTRY = lazy(r"(?P<indent>[ \t]{0,40})(?P<mark>[-*+]|\d{1,9}[.)])[ \t]{1,9}(?:\[[ xX]\][ \t])?(?P<text>\S.*)")
_FIRST_MARKS = frozenset(("-", "*", "+", "1.", "1)"))
"""what may begin a list right behind a line of text (CommonMark 0.31, 5.3)"""

_MOST_LISTS = 20
_DELIMITERS = lazy(r" {0,3}(?=[^\n]*\|)\|?[ \t]*:?-+:?[ \t]*(?:\|[ \t]*:?-+:?[ \t]*){0,100}\|?[ \t]*")
_BARS = lazy(r"(?<!\\)\|")
_CODE = lazy(r"`[^`\n]{1,500}`")
_DEFINITION = lazy(r" {0,3}\[(?P<label>[^\[\]]{1,200})\]:[ \t]*<?(?P<url>[^\s<>]{1,2000})>?(?P<rest>.{0,500})")
_TARGET = (
    r"\(\s{0,10}(?:<(?P<within>[^<>\n]{1,2000})>|(?P<url>[^\s()<>]{1,2000}(?:\([^\s()<>]{0,200}\)[^\s()<>]{0,200})?))"
)
_SAID = r"(?:\s{1,10}(?:\"(?P<said>[^\"\n]{0,500})\"|'(?P<also>[^'\n]{0,500})'|=[\dx]{1,12}))?\s{0,10}\)"
_SHOWN = lazy(
    rf"!\[(?P<alt>[^\[\]\n]{{0,500}})\](?:{_TARGET}{_SAID}|\[(?P<label>[^\[\]\n]{{0,200}})\])(?:\{{[^{{}}\n]{{0,200}}\}})?"
)
_KEPT = lazy(r"!\[\[(?P<url>[^\[\]|#\n]{1,500})(?:[#|][^\[\]\n]{0,200})?\]\]")
_TAG = lazy(r"(<[^<>\n]{1,4000}>)")
_EMPHASIS = lazy(r"(?<![\w*\\])(?P<marks>\*{1,3}|_{1,3})(?=[^\s*_])(?P<text>[^*_\n]{1,500})(?<!\s)(?P=marks)(?![\w*])")
_LINKED = lazy(rf"\[(?P<text>[^\[\]\n]{{1,3000}})\]{_TARGET}{_SAID}")


def from_markdown(text: str) -> str:
    """Return notes, with lines that end in line feeds, as HTML."""
    matter = _MATTER.match(text)
    said = _TITLE.search(matter["matter"]) if matter is not None else None
    said = said or _FIRST_HEADING.search(text)
    lines = text[matter.end() if matter is not None else 0 :].split("\n")
    known = {m["label"].casefold(): m["url"] for line in lines if (m := _DEFINITION.fullmatch(line)) is not None}
    title = _plain(said["title"].strip("# ")) if said is not None else ""
    head = f"<title>{escape(title)}</title>" if title else ""
    return head + "\n".join(_Notes(lines, known).html())


class _Notes:
    """Lines as HTML: headings, tables, lists, rules, and paragraphs between blank lines; what is code shows nothing."""

    def __init__(self, lines: list[str], known: dict[str, str]) -> None:
        self._lines = lines
        self._known = known
        self._lists: list[int] = []
        """how far the lists are indented that are open, the outermost first"""
        self._is_behind_blank = True

    def html(self) -> Iterator[str]:
        """Yield the lines, or what is made of several."""
        is_code = False
        at = 0
        while at < len(self._lines):
            line = _QUOTED.sub("", self._lines[at])
            below = self._lines[at + 1] if at + 1 < len(self._lines) else ""
            at += 1
            if _FENCE.match(line) is not None:
                is_code = not is_code
            elif is_code or _DEFINITION.fullmatch(line) is not None:
                continue
            elif "|" in line and _DELIMITERS.fullmatch(below) is not None:
                end = next((n for n in range(at, len(self._lines)) if "|" not in self._lines[n]), len(self._lines))
                yield self._table([line, *self._lines[at + 1 : end]])
                at = end
            elif self._is_behind_blank and (level := _level_by_line_below(line, below)):
                yield self._heading(level, line)
                at += 1
            else:
                yield self._line(line)

    def _line(self, line: str) -> str:
        was_behind_blank = self._is_behind_blank
        self._is_behind_blank = not line.strip()
        if self._is_behind_blank:
            return "<p>"
        if _RULE.fullmatch(line) is not None:
            return f"{self._left(0)}<hr>"
        if (heading := _HEADING.fullmatch(line)) is not None:
            return self._heading(len(heading["marks"]), heading["text"].rstrip("# "))
        entry = _ENTRY.fullmatch(line)
        if entry is not None and (was_behind_blank or self._lists or entry["mark"] in _FIRST_MARKS):
            return self._entry(len(entry["indent"].expandtabs(4)), entry["text"])
        ends = was_behind_blank and not line.startswith((" ", "\t"))
        return (self._left(0) if ends else "") + self._inline(line)

    def _entry(self, indent: int, text: str) -> str:
        out = self._left(indent + 1)
        if not self._lists or (self._lists[-1] < indent and len(self._lists) < _MOST_LISTS):
            self._lists.append(indent)
            out += "<ul>"
        return f"{out}<li>{self._inline(text)}"

    def _left(self, indent: int) -> str:
        """Return the ends of the lists that are indented so far, or further."""
        inner = [one for one in self._lists if one >= indent]
        self._lists = self._lists[: len(self._lists) - len(inner)]
        return "</ul>" * len(inner)

    def _heading(self, level: int, text: str) -> str:
        self._is_behind_blank = True
        words = text if "[" in text else text.replace("`", "")
        return f"{self._left(0)}<h{level}>{self._inline(words)}</h{level}>"

    def _table(self, rows: list[str]) -> str:
        """Return a table; pictures above what is said of them are no heads of columns."""
        self._is_behind_blank = True
        read = [[self._inline(cell) for cell in _cells(row)] for row in rows]
        head = "td" if any("<img" in cell for cell in read[0]) else "th"
        tags = [head, *repeat("td", len(read) - 1)]
        lines = ("".join(f"<{tag}>{cell}</{tag}>" for cell in row) for tag, row in zip(tags, read, strict=True))
        return f"{self._left(0)}<table>{''.join(f'<tr>{line}</tr>' for line in lines)}</table>"

    def _inline(self, line: str) -> str:
        return _inline(line, self._known)


def _level_by_line_below(line: str, below: str) -> int:
    """Return the level of a heading that is underlined; 0 for what is none."""
    under = _UNDERLINE.fullmatch(below)
    if under is None or not line.strip() or _ENTRY.fullmatch(line) is not None:
        return 0
    return 1 if under["mark"] == "=" else 2


def _cells(row: str) -> list[str]:
    """Return what stands between the bars of a line."""
    bare = row.strip().removeprefix("|")
    cells = [cell.strip().replace("\\|", "|") for cell in _BARS.split(bare)]
    return cells[:-1] if not cells[-1] else cells


def _inline(line: str, known: dict[str, str]) -> str:
    """Return a line with its pictures and links as elements."""
    if "[" not in line:
        return _emphasised(line)

    def shown(match: Match[str]) -> str:
        label = (match["label"] or match["alt"]).casefold()
        url = match["within"] or match["url"] or known.get(label, "")
        said = match["said"] or match["also"] or ""
        return f'<img src="{escape(url)}" alt="{escape(_plain(match["alt"]))}" title="{escape(said)}">'

    def linked(match: Match[str]) -> str:
        return f'<a href="{escape(match["within"] or match["url"])}">{match["text"]}</a>'

    line = _SHOWN.sub(shown, _CODE.sub("", line))
    line = _KEPT.sub(lambda match: f'<img src="{escape(match["url"].strip())}" alt="">', line)
    return _emphasised(_LINKED.sub(linked, line))


def _plain(text: str) -> str:
    """Return a text without the marks of emphasis and of code in it."""
    return _EMPHASIS.sub(r"\g<text>", text).replace("`", "")


def _emphasised(line: str) -> str:
    """Return a line with what stands between stars or underscores as elements, but for what is in tags."""
    if "*" not in line and "_" not in line:
        return line
    parts = _TAG.split(line)
    parts[::2] = [_EMPHASIS.sub(_element, part) for part in parts[::2]]
    return "".join(parts)


def _element(match: Match[str]) -> str:
    tag = "em" if len(match["marks"]) == 1 else "strong"
    return f"<{tag}>{match['text']}</{tag}>"
