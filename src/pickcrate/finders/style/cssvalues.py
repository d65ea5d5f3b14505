"""The addresses among the values of CSS: ``url()``, ``src()``, ``image()``, ``image-set()``.

CSS Syntax 3, CSS Images 4, CSS Values 4.
"""

from collections.abc import Iterable, Iterator

import tinycss2
from tinycss2.ast import DimensionToken, FunctionBlock, LiteralToken, Node, StringToken, URLToken

_ADDRESS_FUNCTIONS = frozenset(("url", "src", "image"))
_SET_FUNCTIONS = frozenset(("image-set", "-webkit-image-set"))
_PER_PIXEL = {"x": 1.0, "dppx": 1.0, "dpi": 1 / 96, "dpcm": 2.54 / 96}
_DEEPEST = 64


def addresses_in(value: str) -> Iterator[list[tuple[str, float | None]]]:
    """Yield the addresses in a value: one to a picture, several for the options of an image set.

    Options come with their resolution in dots per pixel.
    """
    return _addresses(_tokens(value))


def first_address(value: str) -> str | None:
    """Return the first string or address in a value; None if there is none."""
    return next((raw for token in _tokens(value) if (raw := _address(token)) is not None), None)


def _tokens(text: str) -> list[Node]:
    """CSS Syntax 3, 5.3.10: a list of component values; empty where a number has too many digits for the parser."""
    try:
        return list(tinycss2.parse_component_value_list(text, skip_comments=True))
    except ValueError:
        return []


def _addresses(tokens: Iterable[Node], depth: int = 0) -> Iterator[list[tuple[str, float | None]]]:
    for token in tokens:
        raw = _address(token)
        if raw is not None and not isinstance(token, StringToken):
            yield [(raw, None)]
        elif isinstance(token, FunctionBlock) and token.lower_name in _SET_FUNCTIONS:
            options = list(_options(token.arguments))
            if options:
                yield options
        elif depth < _DEEPEST:
            inside = getattr(token, "arguments", None) or getattr(token, "content", None)
            if isinstance(inside, list):
                yield from _addresses(inside, depth + 1)


def _options(tokens: Iterable[Node]) -> Iterator[tuple[str, float | None]]:
    """CSS Images 4, 2.5: each option of an ``image-set()`` is an image and its resolution, in either order."""
    raw, density = None, 1.0
    for part in tokens:
        if isinstance(part, LiteralToken) and part.value == ",":
            if raw is not None:
                yield raw, density
            raw, density = None, 1.0
        elif isinstance(part, DimensionToken):
            density = float(part.value) * _PER_PIXEL.get(part.lower_unit, 1.0)
        elif raw is None:
            raw = _address(part)
    if raw is not None:
        yield raw, density


def _address(token: Node) -> str | None:
    if isinstance(token, URLToken | StringToken):
        return str(token.value)
    if isinstance(token, FunctionBlock) and token.lower_name in _ADDRESS_FUNCTIONS:
        return next((str(inner.value) for inner in token.arguments if isinstance(inner, StringToken)), None)
    return None
