"""Notes in Markdown, as a page (CommonMark 0.31, and what notes add to it).

What tells pictures and their words is understood: headings, pictures, links, their definitions, emphasis, code. All
else is left as it is, HTML as well.
"""

from collections.abc import Iterator
from html import escape
from re import Match

from pickcrate.text.lazyre import lazy

_MATTER = lazy(r"(?m)---[ \t]*\n(?P<matter>(?:(?!---[ \t]*$).*\n){0,200})---[ \t]*\n")
_TITLE = lazy(r"(?m)^title:[ \t]*[\"']?(?P<title>[^\n\"']{1,300})")
_FIRST_HEADING = lazy(r"(?m)^#[ \t]+(?P<title>[^\n]{1,300})")
_HEADING = lazy(r" {0,3}(?P<marks>#{1,6})[ \t]+(?P<text>.*)")
_FENCE = lazy(r" {0,3}(?:`{3,}|~{3,})")
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
    return head + "\n".join(_blocks(lines, known))


def _blocks(lines: list[str], known: dict[str, str]) -> Iterator[str]:
    """Yield the lines as HTML: headings, and paragraphs between blank lines; what is code shows nothing."""
    is_code = False
    for line in lines:
        if _FENCE.match(line) is not None:
            is_code = not is_code
        elif is_code or _DEFINITION.fullmatch(line) is not None:
            continue
        elif not line.strip():
            yield "<p>"
        elif (heading := _HEADING.fullmatch(line)) is not None:
            level = len(heading["marks"])
            words = heading["text"].rstrip("# ")
            yield f"<h{level}>{_inline(words if '[' in words else words.replace('`', ''), known)}</h{level}>"
        else:
            yield _inline(line, known)


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
