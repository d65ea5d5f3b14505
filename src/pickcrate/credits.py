"""The credits of a crate: each picture with its title, author, source and licence (Creative Commons: TASL).

Creative Commons, "Recommended practices for attribution": title, author, source, licence, each with its link. What
nobody states is left out and said to be, never made up.
"""

import re
from collections.abc import Callable, Iterable, Iterator

from msgspec import Struct

from pickcrate.addresses.url import is_web, without_userinfo
from pickcrate.text.lazyre import lazy

_MARKDOWN = lazy(r"([\\`*_{}\[\]<>()#+!|~-])")
_BEFORE = """<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<style>
body { font: 15px/1.5 system-ui, sans-serif; max-width: 60rem; margin: 2rem auto; padding: 0 1rem; }
li { margin: .4rem 0; }
</style>
"""
_NO_LINE = lazy(r"[\r\n\x00-\x1f]+")


class Credit(Struct, frozen=True):
    """What is to be said of one picture. Addresses may be empty, as may all else but the file."""

    file: str
    title: str
    author: str
    author_from: str
    licence: str
    licence_url: str
    licence_from: str
    terms_url: str
    page: str
    url: str


def as_markdown(title: str, credits_: Iterable[Credit]) -> Iterator[str]:
    """Yield the credits as CommonMark, a list item a picture."""
    yield f"# Credits: {_marked(title)}\n\n"
    for one in credits_:
        yield f"- **{_marked(one.file)}**: {', '.join(_parts(one, _markdown_link, _marked))}\n"


def as_html(title: str, credits_: Iterable[Credit]) -> Iterator[str]:
    """Yield the credits as a web page that loads nothing, an entry a picture."""
    heading = f"Credits: {_escaped(title)}"
    yield f"{_BEFORE}<title>{heading}</title>\n</head>\n<body>\n<h1>{heading}</h1>\n<ul>\n"
    for one in credits_:
        yield f"<li><strong>{_escaped(one.file)}</strong>: {', '.join(_parts(one, _html_link, _escaped))}</li>\n"
    yield "</ul>\n</body>\n</html>\n"


def _parts(one: Credit, link: Callable[[str, str], str], plain: Callable[[str], str]) -> Iterator[str]:
    """Yield title and source, author, licence, and whom to ask, as far as they are stated."""
    source = one.page or one.url
    yield link(one.title or "untitled", source)
    yield f"by {plain(one.author)} ({plain(one.author_from)})" if one.author else "no author is stated"
    if one.licence or one.licence_url:
        yield f"{link(one.licence or 'licence', one.licence_url)} ({plain(one.licence_from)})"
    else:
        yield "no licence is stated"
    if one.terms_url:
        yield link("terms of use", one.terms_url)
    if one.url and one.url != source:
        yield link("the picture", one.url)


def _line(text: str) -> str:
    return _NO_LINE.sub(" ", without_userinfo(text)).encode("utf-8", "replace").decode("utf-8")


def _marked(text: str) -> str:
    return _MARKDOWN.sub(r"\\\1", _line(text))


def _markdown_link(words: str, address: str) -> str:
    plain = re.sub(r"[\s<>]", "", _line(address))
    return f"[{_marked(words)}](<{plain}>)" if is_web(address) else _marked(words)


def _escaped(text: str) -> str:
    import html  # noqa: PLC0415 (most runs write no credits, and its table is large)

    return html.escape(_line(text))


def _html_link(words: str, address: str) -> str:
    return f'<a href="{_escaped(address)}">{_escaped(words)}</a>' if is_web(address) else _escaped(words)
