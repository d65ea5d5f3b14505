"""What stands in any text in lightweight markup: pictures, entries of lists, cells between bars, emphasis."""

from html import escape
from itertools import repeat
from re import Match

from pickcrate.text.lazyre import lazy

_MOST_LISTS = 20
_BARS = lazy(r"(?<!\\)\|")
_TAG = lazy(r"(<[^<>\n]{1,4000}>)")
_EMPHASIS = lazy(r"(?<![\w*\\])(?P<marks>\*{1,3}|_{1,3})(?=[^\s*_])(?P<text>[^*_\n]{1,500})(?<!\s)(?P=marks)(?![\w*])")


def picture(url: str, alt: str = "", *, link: str = "", title: str = "", caption: str = "") -> str:
    """Return a picture with what is said of it, all escaped but for quotes."""
    said = f' title="{quoted(title)}"' if title else ""
    shown = f'<img src="{quoted(url)}" alt="{quoted(alt)}"{said}>'
    shown = f'<a href="{quoted(link)}">{shown}</a>' if link else shown
    return f"<figure>{shown}<figcaption>{caption.strip()}</figcaption></figure>" if caption else shown


def raw_picture(url: str, alt: str = "", *, title: str = "", caption: str = "") -> str:
    """Return a picture as ``picture`` does, of what is as it was written."""
    url, alt, title, caption = (escape(said, quote=False) for said in (url, alt, title, caption))
    return picture(url, alt, title=title, caption=caption)


def quoted(text: str) -> str:
    """Return what is escaped but for its quotes as an attribute has it."""
    return " ".join(text.split()).replace('"', "&quot;")


class Lists:
    """The lists that are open where lines are read: entries of one are as far indented, and those inside it further."""

    def __init__(self) -> None:
        self._indents: list[int] = []

    @property
    def is_open(self) -> bool:
        """Whether an entry goes on."""
        return bool(self._indents)

    def entry(self, match: Match[str], html: str) -> str:
        """Return the beginning of an entry, in the list that it is of.

        ``match`` has how far it is indented (``indent``) and its mark (``mark``), which indents it as well if repeated.
        """
        indent = len(match["indent"].expandtabs(4))
        if match["mark"][0] in "*#.":
            indent += len(match["mark"]) - 1
        out = self.left(indent + 1)
        if not self._indents or (self._indents[-1] < indent and len(self._indents) < _MOST_LISTS):
            self._indents.append(indent)
            out += "<ul>"
        return f"{out}<li>{html}"

    def left(self, indent: int = 0) -> str:
        """Return the ends of the lists that are indented so far, or further."""
        inner = [one for one in self._indents if one >= indent]
        self._indents = self._indents[: len(self._indents) - len(inner)]
        return "</ul>" * len(inner)


def table(rows: list[list[str]], *, is_headed: bool) -> str:
    """Return cells, in HTML, as a table; pictures above what is said of them are no heads of columns."""
    is_headed = is_headed and not any("<img" in cell for cell in rows[0])
    tags = ["th" if is_headed else "td", *repeat("td", len(rows) - 1)]
    lines = ("".join(f"<{tag}>{cell}</{tag}>" for cell in row) for tag, row in zip(tags, rows, strict=True))
    return f"<table>{''.join(f'<tr>{line}</tr>' for line in lines)}</table>"


def cells_of(row: str) -> list[str]:
    """Return what stands between the bars of a line."""
    bare = row.strip().removeprefix("|")
    cells = [cell.strip().replace("\\|", "|") for cell in _BARS.split(bare)]
    return cells[:-1] if not cells[-1] else cells


def plain(text: str) -> str:
    """Return a text without the marks of emphasis and of code in it."""
    return _EMPHASIS.sub(r"\g<text>", text).replace("`", "")


def emphasised(line: str) -> str:
    """Return a line with what stands between stars or underscores as elements, but for what is in tags."""
    if "*" not in line and "_" not in line:
        return line
    parts = _TAG.split(line)
    parts[::2] = [_EMPHASIS.sub(_element, part) for part in parts[::2]]
    return "".join(parts)


def _element(match: Match[str]) -> str:
    tag = "em" if len(match["marks"]) == 1 else "strong"
    return f"<{tag}>{match['text']}</{tag}>"
