"""Notes in Markdown, as a page (CommonMark 0.31, with tables, and what notes add to it).

What tells pictures and their words is understood: headings, lists, tables, pictures, links, their definitions,
emphasis, code. All else is left as it is, HTML as well.
"""

from collections.abc import Iterator
from html import escape
from re import Match

from pickcrate.read.texts.lines import Lists, cells_of, emphasised, plain, raw_picture, table
from pickcrate.read.texts.shortcodes import pictures_of, with_shortcodes
from pickcrate.text.lazyre import lazy

_MATTER = lazy(r"(?m)(?P<mark>---|\+\+\+)[ \t]*\n(?P<matter>(?:(?!(?P=mark)[ \t]*$).*\n){0,200})(?P=mark)[ \t]*\n")
_TITLE = lazy(r"(?m)^title[ \t]?[:=][ \t]*[\"']?(?P<title>[^\n\"']{1,300})")
_FIRST_HEADING = lazy(r"(?m)^#[ \t]+(?P<title>[^\n]{1,300})")
_HEADING = lazy(r" {0,3}(?P<marks>#{1,6})[ \t]+(?P<text>.*)")
_FENCE = lazy(r" {0,3}(?:`{3,}|~{3,})")
_UNDERLINE = lazy(r" {0,3}(?P<mark>[=-])(?P=mark){1,200}[ \t]*")
_RULE = lazy(r" {0,3}(?P<mark>[-*_])(?:[ \t]{0,9}(?P=mark)){2,100}[ \t]*")
_QUOTED = lazy(r"\A(?: {0,3}> ?){1,9}")
_ENTRY = lazy(r"(?P<indent>[ \t]{0,40})(?P<mark>[-*+]|\d{1,9}[.)])[ \t]{1,9}(?:\[[ xX]\][ \t])?(?P<text>\S.*)")
_FIRST_MARKS = frozenset(("-", "*", "+", "1.", "1)"))
"""what may begin a list right behind a line of text (CommonMark 0.31, 5.3)"""

_DELIMITERS = lazy(r" {0,3}(?=[^\n]*\|)\|?[ \t]*:?-+:?[ \t]*(?:\|[ \t]*:?-+:?[ \t]*){0,100}\|?[ \t]*")
_CODE = lazy(r"`[^`\n]{1,500}`")
_DEFINITION = lazy(
    r" {0,3}\[(?P<label>[^\[\]]{1,200})\]:[ \t]*<?(?P<url>[^\s<>]{1,2000})>?(?:[ \t]{1,9}(?P<rest>.{0,500}))?"
)
_TARGET = (
    r"\(\s{0,10}(?:<(?P<within>[^<>\n]{1,2000})>|(?P<url>[^\s()<>]{1,2000}(?:\([^\s()<>]{0,200}\)[^\s()<>]{0,200})?))"
)
_SAID = r"(?:\s{1,10}(?:\"(?P<said>[^\"\n]{0,500})\"|'(?P<also>[^'\n]{0,500})'|=[\dx]{1,12}))?\s{0,10}\)"
_PLAIN = r"[^\[\]\n]{0,500}+"
_WORDS = rf"{_PLAIN}(?:\[{_PLAIN}\]{_PLAIN}){{0,9}}+"
"""what stands in brackets; it may have others in it"""

_WORDS_IN_LINES = _WORDS.replace(r"\n", "")

_SHOWN = lazy(
    rf"(?<!\\)!\[(?P<alt>{_WORDS})\](?:{_TARGET}{_SAID}|\[(?P<label>[^\[\]\n]{{0,200}})\])?(?:\{{[^{{}}\n]{{0,200}}\}})?"
)
_BROKEN = lazy(rf"!\[{_WORDS_IN_LINES}\]\s{{0,9}}(?:\([^()]{{1,3000}}\)|\[[^\[\]]{{0,200}}\])")
"""a picture whose words may go on in the next line"""

_LINE_BREAK, _BLANK_LINE = lazy(r"[ \t]*\n[ \t>]*"), lazy(r"\n[ \t>]*\n")
_KEPT = lazy(r"!\[\[(?P<url>[^\[\]|#\n]{1,500})(?:[#|][^\[\]\n]{0,200})?\]\]")
_LINKED = lazy(rf"\[(?P<text>[^\[\]\n]{{1,3000}})\]{_TARGET}{_SAID}")


def from_markdown(text: str) -> str:
    """Return notes, with lines that end in line feeds, as HTML."""
    matter = _MATTER.match(text)
    said = _TITLE.search(matter["matter"]) if matter is not None else None
    said = said or _FIRST_HEADING.search(text)
    body = text[matter.end() if matter is not None else 0 :]
    lines = _BROKEN.sub(_in_one_line, with_shortcodes(body)).split("\n")
    definitions = filter(None, map(_DEFINITION.fullmatch, lines))
    known = {_label(one["label"]): (one["url"], (one["rest"] or "").strip("\"'()")) for one in definitions}
    title = plain(said["title"].strip("# ")) if said is not None else ""
    head = f"<title>{escape(title)}</title>" if title else ""
    cover = pictures_of(matter["matter"]) if matter is not None else ""
    return head + cover + "\n".join(_Notes(lines, known).html())


def _in_one_line(match: Match[str]) -> str:
    return match[0] if _BLANK_LINE.search(match[0]) is not None else _LINE_BREAK.sub(" ", match[0])


def _label(text: str) -> str:
    """Return a label as those of one meaning are alike (CommonMark 0.31, 4.7)."""
    return " ".join(text.split()).casefold()


class _Notes:
    """Lines as HTML: headings, tables, lists, rules, and paragraphs between blank lines; what is code shows nothing."""

    def __init__(self, lines: list[str], known: dict[str, tuple[str, str]]) -> None:
        self._lines = lines
        self._known = known
        self._lists = Lists()
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
            return f"{self._lists.left()}<hr>"
        if (heading := _HEADING.fullmatch(line)) is not None:
            return self._heading(len(heading["marks"]), heading["text"].rstrip("# "))
        entry = _ENTRY.fullmatch(line)
        if entry is not None and (was_behind_blank or self._lists.is_open or entry["mark"] in _FIRST_MARKS):
            return self._lists.entry(entry, self._inline(entry["text"]))
        ends = was_behind_blank and not line.startswith((" ", "\t"))
        return (self._lists.left() if ends else "") + self._inline(line)

    def _heading(self, level: int, text: str) -> str:
        self._is_behind_blank = True
        words = text if "[" in text else text.replace("`", "")
        return f"{self._lists.left()}<h{level}>{self._inline(words)}</h{level}>"

    def _table(self, rows: list[str]) -> str:
        self._is_behind_blank = True
        read = [[self._inline(cell) for cell in cells_of(row)] for row in rows]
        return self._lists.left() + table(read, is_headed=True)

    def _inline(self, line: str) -> str:
        return _inline(line, self._known)


def _level_by_line_below(line: str, below: str) -> int:
    """Return the level of a heading that is underlined; 0 for what is none."""
    under = _UNDERLINE.fullmatch(below)
    if under is None or not line.strip() or _ENTRY.fullmatch(line) is not None:
        return 0
    return 1 if under["mark"] == "=" else 2


def _inline(line: str, known: dict[str, tuple[str, str]]) -> str:
    """Return a line with its pictures and links as elements."""
    if "[" not in line:
        return emphasised(line)

    def shown(match: Match[str]) -> str:
        url, title = match["within"] or match["url"], match["said"] or match["also"] or ""
        if url is None:
            url, title = known.get(_label(match["label"] or match["alt"]), ("", ""))
        if not url and match["label"] is None:
            return match[0]  # words in brackets, or a picture that notes keep
        return raw_picture(url, plain(_LINKED.sub(r"\g<text>", match["alt"])), title=title)

    def linked(match: Match[str]) -> str:
        return f'<a href="{escape(match["within"] or match["url"])}">{match["text"]}</a>'

    line = _SHOWN.sub(shown, _CODE.sub("", line))
    line = _KEPT.sub(lambda match: raw_picture(match["url"].strip()), line)
    return emphasised(_LINKED.sub(linked, line))
