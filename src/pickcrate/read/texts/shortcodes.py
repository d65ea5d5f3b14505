"""What notes show by other means than Markdown's own, for the programs that make sites of them.

Front matter that names a cover, shortcodes (``{{< figure src="a.jpg" >}}``, ``{% img a.jpg %}``), and directives of
figures in fences (```{figure} a.jpg``, as reStructuredText has them); and in MDX the values of attributes in braces:
names of files that are imported, ``require("a.jpg")``, texts.
"""

import re
from html import escape
from itertools import chain
from re import Match

from pickcrate.media import ANY_EXTENSION
from pickcrate.read.texts.lines import raw_picture
from pickcrate.text.lazyre import lazy

_FILE = rf"[^\s\"'<>{{}}|,]{{1,500}}\.(?:{ANY_EXTENSION})(?:\?[^\s\"'<>{{}}|,]{{0,300}})?"
_KEY = lazy(r"[ \t]{0,40}(?:- )?(?:[\w-]{1,40}[ \t]?[:=])?")
_SHORTCODE = lazy(r"\{\{[<%](?P<said>[^{}\n]{1,2000})[%>]\}\}|\{%-?(?P<also>[^{}\n]{1,2000})%\}")
_NAMED = lazy(
    r"\b(?P<name>[a-z][\w-]{0,30})[ \t]?=[ \t]?"
    r"(?:\"(?P<said>[^\"]{0,500})\"|'(?P<also>[^']{0,500})'|(?P<bare>[^\s\"']{1,500}))",
    re.IGNORECASE,
)
_PLAIN = lazy(rf"(?<![\w/.-])(?P<url>{_FILE})(?![\w/])", re.IGNORECASE)
_IS_FILE = lazy(_FILE, re.IGNORECASE)
_QUOTED = lazy(r"\"(?P<said>[^\"]{1,500})\"|'(?P<also>[^']{1,500})'")
_DIRECTIVE = lazy(
    r"(?m)^[ \t]{0,20}(?P<fence>`{3,9}|:{3,9})\{(?:figure|image)\}[ \t]{1,9}(?P<url>\S{1,1000})[ \t]*\n"
    r"(?P<body>(?:(?![ \t]{0,20}(?P=fence)[ \t]*$)[^\n]{0,2000}\n){0,30})[ \t]{0,20}(?P=fence)[ \t]*$"
)
_OPTION = lazy(r"(?m)^[ \t]{0,20}:(?P<name>[\w-]{1,40}):[ \t]{0,9}(?P<said>[^\n]{0,1000})\n?")
_IMPORTED = lazy(
    rf"(?m)^import[ \t]{{1,9}}(?P<name>\w{{1,60}})(?:,[^\n\"']{{0,200}})?[ \t]{{1,9}}from[ \t]{{1,9}}"
    rf"[\"'](?P<url>{_FILE})[\"'];?[ \t]*$"
)
_IN_BRACES = lazy(
    r"=\{(?:(?P<name>\w{1,60})(?:\.src)?|require\([\"'](?P<url>[^\"'\n]{1,500})[\"']\)(?:\.default)?"
    r"|[\"'`](?P<said>[^\"'`{}\n]{1,500})[\"'`])\}"
)
_HEADING = lazy(r"(?m)^#{1,6}[ \t]{1,9}\S")
_OPENS = lazy(r"\A(?:---|\+\+\+)[ \t]*\r?\n")


def has_shortcodes(text: str) -> bool:
    """Tell whether the beginning of a text is that of a note for a program, which shows a picture in such a way.

    It begins with front matter, or as MDX with what it imports; a script that does has no headings.
    """
    is_mdx = _IN_BRACES.search(text) is not None and _HEADING.search(text) is not None
    if text.startswith("import "):
        return is_mdx
    if _OPENS.match(text) is None:
        return False
    return is_mdx or any(_shown(match) != match[0] for match in _SHORTCODE.finditer(text))


def pictures_of(matter: str) -> str:
    """Return the pictures that front matter names, one or several in a line, as HTML."""
    lines = matter.split("\n")
    values = (line[key.end() :].strip(" \t,") for line in lines if (key := _KEY.match(line)) is not None)
    named = chain.from_iterable(value[1:-1].split(",") if value[:1] == "[" else [value] for value in values)
    return "".join(raw_picture(url) for name in named if _IS_FILE.fullmatch(url := name.strip(" \t\"'")) is not None)


def with_shortcodes(text: str) -> str:
    """Return a note with its shortcodes, directives and values in braces that show a picture as HTML."""
    if "{" not in text:
        return text
    imported = {one["name"]: one["url"] for one in _IMPORTED.finditer(text)}

    def value(match: Match[str]) -> str:
        url = match["url"] or match["said"] or imported.get(match["name"] or "")
        return f'="{escape(url)}"' if url else match[0]

    text = _IN_BRACES.sub(value, _IMPORTED.sub("", text))
    return _SHORTCODE.sub(_shown, _DIRECTIVE.sub(_directed, text))


def _shown(match: Match[str]) -> str:
    """Return what a shortcode shows; itself, if that is no picture."""
    said = match["said"] or match["also"]
    named = {one["name"].lower(): one["said"] or one["also"] or one["bare"] or "" for one in _NAMED.finditer(said)}
    url = next((value for value in named.values() if _IS_FILE.fullmatch(value) is not None), "")
    if url:
        caption = named.get("caption") or named.get("description", "")
        return raw_picture(url, named.get("alt") or named.get("title", ""), caption=caption)
    if (plain := _PLAIN.search(said)) is None:
        return match[0]
    behind = _QUOTED.search(said, plain.end() + 1)
    return raw_picture(plain["url"], (behind["said"] or behind["also"]) if behind is not None else "")


def _directed(match: Match[str]) -> str:
    said = {option["name"].lower(): option["said"] for option in _OPTION.finditer(match["body"])}
    return raw_picture(match["url"], said.get("alt", ""), caption=_OPTION.sub("", match["body"]))
