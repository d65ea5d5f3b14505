"""Whose a thing in data is, and under which licence: what its own objects say, however deep they say it."""

from collections.abc import Iterator

from pickcrate.elements.words import text_in
from pickcrate.read.pages.rights import aspect_of_label, is_licence
from pickcrate.values.claims import Aspect

_SAYS = (
    *("value", "$t", "#text", "text", "name", "label", "title", "shortname", "code", "term", "appellationvalue"),
    *("legalbodyname", "url", "uri", "href", "target", "conceptid", "id", "@id"),
)
"""under which name an object says what it is, a person or a licence"""

_LONGEST = 160
_DEEPEST, _MOST, _MOST_VALUES = 5, 400, 5
"""levels, properties, and values of one, that are looked at"""


def rights_in(value: dict[str, object]) -> Iterator[tuple[str, str]]:
    """Yield the properties of a thing that name who is to be named, or a known licence, each with its text.

    Where several say something else, it is not clear of what each is true.
    """
    said: dict[str, set[str]] = {}
    for label, text in _told(value):
        said.setdefault(label, set()).add(text)
    yield from ((label, texts.pop()) for label, texts in said.items() if len(texts) == 1)


def _told(value: dict[str, object]) -> Iterator[tuple[str, str]]:
    waiting: list[tuple[str, object, int]] = [(label, inner, 0) for label, inner in value.items()]
    for count, (label, inner, depth) in enumerate(waiting):  # it grows
        if count >= _MOST:
            return
        aspect = aspect_of_label(label)
        if aspect is not None and (text := _text(inner, aspect)):
            yield label, text
            continue
        alone = inner[0] if isinstance(inner, list) and len(inner) == 1 else inner
        if isinstance(alone, dict) and depth < _DEEPEST:
            waiting.extend((label, more, depth + 1) for label, more in alone.items())


def _text(value: object, aspect: Aspect) -> str:
    """Return what is said of an aspect; empty if that is nothing that is understood.

    That something is in the public domain is said by a truth value.
    """
    if value is True:
        return "true" if aspect is Aspect.LICENCE else ""
    if isinstance(value, list) and aspect is Aspect.CREDIT:
        named = (_text(one, aspect) for one in value[:_MOST_VALUES] if not isinstance(one, list))
        return ", ".join(filter(None, named))
    plain = map(text_in, _texts(value, 0))
    texts = (text for text in plain if 0 < len(text) <= _LONGEST)
    fits = is_licence if aspect is Aspect.LICENCE else _is_somebody
    return next(filter(fits, texts), "")


def _is_somebody(text: str) -> bool:
    return "://" not in text and any(map(str.isalpha, text))


def _texts(value: object, depth: int) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict) and depth < _DEEPEST:
        plain = {key.lower(): inner for key, inner in value.items()}
        for key in _SAYS:
            yield from _texts(plain.get(key), depth + 1)
    elif isinstance(value, list) and depth < _DEEPEST:
        for one in value[:_MOST_VALUES]:
            yield from _texts(one, depth + 1)
