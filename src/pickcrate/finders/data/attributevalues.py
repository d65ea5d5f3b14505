"""Image addresses in the values of attributes: one address, several, a srcset, options, JSON, style, markup."""

import re
from collections.abc import Callable, Iterator

from pickcrate.finders.data.encoded import decoded
from pickcrate.finders.data.jsondata import OPENS_JSON, in_json, in_notation
from pickcrate.finders.data.literals import EXTENSION, in_markup, in_query, in_urls, is_address, listed, says_where
from pickcrate.finders.data.named import may_hold_named
from pickcrate.finders.srcset import ImageCandidateString, parse_srcset
from pickcrate.text.lazyre import lazy

_PAIRS = lazy(r"[A-Za-z_]\w{0,40}=(?!=)")
"""how names with values begin, as in a query: ``file=red.jpg&title=Red``"""

_OPTION = lazy(r"\s*+(?!(?:https?|ftp|file|data|blob|cid|mid)\s*:)[A-Za-z][\w-]{0,40}+\s*+:", re.IGNORECASE)
"""how a name of an option begins, that is no scheme of an address"""

_FOR_ADDRESS = lazy(r"(?:src|ur[li]|poster)$", re.IGNORECASE)
_BETWEEN_OPTIONS = lazy(r"[;,\n]")
_BRACKETED = lazy(r"(?:\[[^\[\]]++\][\s,]*+)++")
_IN_BRACKETS = lazy(r"\[\s*+(?P<url>[^\s,\[\]\"']++)\s*+,(?P<condition>[^\[\]\"']*+)\]")
_COMPARED = lazy(r"(?:[<>]=?\s*+\d\w*+\s*+:[^,<>]++,?+\s*+)++")
_BEHIND_SIGN = lazy(r"(?P<condition>[<>])=?\s*+\d\w*+\s*+:\s*+(?P<url>[^\s,<>]++)")


def in_value(value: str) -> Iterator[ImageCandidateString]:
    """Yield the image addresses of an attribute's value: itself, a srcset's, a ``url()``'s, or those of its JSON."""
    text = decoded(value.strip())
    if EXTENSION.search(text) is None:
        if text[:1] in OPENS_JSON and may_hold_named(text):
            yield from in_json(text)
        return
    if _PAIRS.match(text) is not None:
        yield from map(ImageCandidateString, in_query(f"?{text}"))
    elif by_screen := by_condition(text):
        yield from map(ImageCandidateString, by_screen)
    elif densities := by_density(text, is_address):
        yield from densities
    elif several := _declared(text) or listed(text):
        yield from map(ImageCandidateString, several)
    elif text[:1] in OPENS_JSON:
        yield from in_notation(text)
    elif "url(" in text.lower():
        yield from map(ImageCandidateString, in_urls(text))
    elif "<" in text:
        yield from map(ImageCandidateString, in_markup(text))
    else:
        entries = parse_srcset(text)
        if entries and all(is_address(entry.url) for entry in entries):
            yield from entries


def _declared(text: str) -> list[str]:
    """Return the addresses of a value that has options as a style has declarations: ``src: red.jpg; fit: cover``.

    A bare file name counts where its option is for an address: ``File: red.jpg`` may be words.
    """
    if _OPTION.match(text) is None:
        return []
    options = [option for option in _BETWEEN_OPTIONS.split(text) if option.strip()]
    if not all(map(_OPTION.match, options)):
        return []
    parts = (option.partition(":") for option in options)
    named = [(name.strip(), value.strip(" \t\n\"'")) for name, _, value in parts]
    return [value for name, value in named if is_address(value) and (says_where(value) or _FOR_ADDRESS.search(name))]


def by_density(text: str, is_one: Callable[[str], object]) -> list[ImageCandidateString]:
    """Return the two addresses of a value that has one for plain and one for fine screens: ``a.jpg|a-2x.jpg``."""
    plain, bar, fine = text.partition("|")
    if not bar or not is_one(plain.strip()) or not is_one(fine.strip()):
        return []
    return [ImageCandidateString(plain.strip(), density=1.0), ImageCandidateString(fine.strip(), density=2.0)]


def by_condition(text: str) -> dict[str, str]:
    """Return the addresses of a value that has one for each kind of screen, with the condition of each.

    ``[red-s.jpg, small], [red-l.jpg, (min-width: 800px)]``, or ``<768:red-s.jpg, >768:red-l.jpg``.
    """
    for whole, each in ((_BRACKETED, _IN_BRACKETS), (_COMPARED, _BEHIND_SIGN)):
        if whole.fullmatch(text) is not None:
            found = (match.groupdict() for match in each.finditer(text))
            return {match["url"]: match["condition"] for match in found if is_address(match["url"])}
    return {}
