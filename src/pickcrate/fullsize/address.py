"""What an address alone says of a larger version, unproved: by the tables of conventions, and by its query."""

from collections.abc import Iterator
from functools import lru_cache

from msgspec.structs import replace

from pickcrate.addresses.url import absolute, claims_no_image, image_type, is_web, path_of
from pickcrate.fullsize.conventions import path_and_query, tables
from pickcrate.fullsize.query import enlarged, strip
from pickcrate.values.evidence import Basis, Evidence
from pickcrate.values.image import Candidate

_DEEPEST = 4
"""Rewrites of rewrites: a proxy's address, its original's size suffix, the query of that."""

_LONGEST = 2000
"""Characters of an address that is still held against the table: a page may be made to be slow."""

_IN_QUERY = "sizes in the query"
_Steps = tuple[str, ...]
"""names of the conventions by which an address was made, one after the other"""


@lru_cache(maxsize=1)
def _names_of_originals() -> frozenset[str]:
    return frozenset(rule.name for table in tables() for rule in table.rules if rule.leads_to_original)


def from_address(url: str) -> list[Candidate]:
    """Return what ``url`` alone suggests for a larger version of its picture, best first; nothing of it is proved.

    Forms that are unmistakable come before those that are only plausible, and what they lead to in several steps
    before what they lead to in one. ``url`` must be absolute and of the web; a vector drawing has no larger version.
    """
    kind = image_type(url)
    if not is_web(url) or len(url) > _LONGEST or (kind is not None and kind.name in {"svg", "ico"}):
        return []
    sure = dict(_followed(url, sure=True))
    plausible: dict[str, _Steps] = {}
    for start in (url, *list(sure)[::-1]):
        plausible = _plausible(start) | plausible
    ranked = dict(reversed(sure.items())) | {
        address: steps for address, steps in plausible.items() if address not in sure
    }
    return [_candidate(address, steps, is_sure=address in sure) for address, steps in ranked.items() if address != url]


def _candidate(url: str, steps: _Steps, *, is_sure: bool) -> Candidate:
    evidence = Evidence(Basis.ADDRESS, ", then ".join(steps), is_sure=is_sure)
    return Candidate(url, replace(evidence, is_original=steps[-1] in _names_of_originals()))


def _followed(url: str, *, sure: bool) -> Iterator[tuple[str, _Steps]]:
    """Yield what the first row that fits makes of ``url``, what the next makes of that, and so on, with all steps.

    The first is the form that an address has: others would only guess at its pieces.
    """
    seen = {url}
    steps: _Steps = ()
    while len(steps) < _DEEPEST:
        fits = ((made, name) for made, name in _steps(url, sure=sure) if made not in seen)
        url, name = next(fits, ("", ""))
        if not url:
            return
        seen.add(url)
        steps = (*steps, name)
        yield url, steps


def _plausible(url: str) -> dict[str, _Steps]:
    """Return what each row makes of ``url``: before it what is left when all else that names a size is gone as well.

    ``thumbs/red-150x150.jpg`` is a copy of ``red.jpg`` rather than of ``red-150x150.jpg`` or ``thumbs/red.jpg``.
    """
    found: dict[str, _Steps] = {}
    renamed: dict[str, list[tuple[str, _Steps]]] = {}
    for made, name in _steps(url, sure=False):
        for address, steps in (*reversed(_further(made, renamed)), (made, ())):
            found.setdefault(address, (name, *steps))
    return found


def _further(url: str, renamed: dict[str, list[tuple[str, _Steps]]]) -> list[tuple[str, _Steps]]:
    """Return what is left of ``url`` when all else that names a size is gone, step by step.

    ``renamed`` holds what became of the last segment of others, and is added to: a name loses its sign in any folder
    that has none itself.
    """
    folder, _, name = url.rpartition("/")
    if name in renamed and not any(table.has_sign(f"{path_of(folder)}/") for table in tables()):
        return [(f"{folder}/{new}", steps) for new, steps in renamed[name]]
    further = list(_followed(url, sure=False))
    if all(address.rpartition("/")[0] == folder for address, _ in further):
        renamed[name] = [(address.rpartition("/")[2], steps) for address, steps in further]
    return further


def _steps(url: str, *, sure: bool) -> Iterator[tuple[str, str]]:
    path = path_and_query(url)[0]
    for rule in (rule for table in tables() for rule in table.that_may_fit(path, sure=sure)):
        match = rule.path.search(path)
        for raw, name in rule.rewrite(url, match) if match is not None else ():
            made = absolute(raw, url)
            if made is not None and made != url and is_web(made) and not claims_no_image(made):
                yield made, name
    address, _, query = url.partition("?")
    stripped = strip(query) if query else None
    # A signature covers the query: without its sizes the server would refuse it.
    if stripped is None or stripped.signed:
        return
    if sure:
        yield (f"{address}?{stripped.query}" if stripped.query else address), _IN_QUERY
    else:
        yield from ((f"{address}?{asked}", f"“{word}” for a size in the query") for asked, word in enlarged(query))
