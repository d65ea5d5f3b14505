"""Data that is written in pieces which refer to each other, put together again.

Frameworks send the state of a page so that what stands in several places is sent once: as a flat list in which each
object has the places of its values, and may have those of their names (``{"_1": 2}``), as pairs of a kind and a value,
or as a cache of objects by their keys. Linked data has nodes that refer to others. Tables are written column by column.
"""

from collections.abc import Iterator
from itertools import chain, islice

from pickcrate.finders.data.literals import is_address

_OF_LINKS = frozenset(("type", "linkType", "id", "meta"))
_TAGS = frozenset(("Reactive", "ShallowReactive", "Ref", "ShallowRef"))
"""what a flat list wraps a value in, by its name and the value's place"""

_IDENTITIES, _REFERENCES = ("@id", "about"), ("@id", "resource")
"""under which name a node says what it is known as, and another that it means that one"""

_NO_PLACES = frozenset(map(str, range(-10, 0)))
"""what a flat list has for values that JSON does not have: nothing, no number"""

_OF_NAME = "_"
"""what stands before the place of a name"""

_PLAIN, _LIST = "0", "1"
_LEAST_FLAT, _MOST_FLAT, _DEEPEST = 3, 200_000, 60


def revived(value: object) -> object:
    """Return a value put together again if it was written in pieces, numbers as texts; others as they are."""
    if isinstance(value, list) and _is_flat(value):
        return _from_flat(value)
    if isinstance(value, dict | list) and (nodes := _nodes_of(value)):
        _put_together(nodes)
        return value
    if isinstance(value, dict) and value and all(map(_is_pair, value.values())):
        return {name: _from_pair(inner, 0) for name, inner in value.items()}
    if isinstance(value, dict) and _is_by_columns(value):
        keys = next(iter(value.values()))
        return [{name: column[key] for name, column in value.items()} for key in keys]
    return value


def _nodes_of(value: dict[str, object] | list[object]) -> dict[str, dict[str, object]]:
    """Return the nodes of linked data by what they are known as, if there are several; nothing of other data.

    JSON-LD 1.1, 3.3 (``@id``, in a ``@graph``); RDF/XML, 2.5 (``rdf:about``).
    """
    tops = [top for top in value.values() if isinstance(top, dict | list)] if isinstance(value, dict) else [value]
    members = chain.from_iterable(top if isinstance(top, list) else [top] for top in tops)
    nodes: dict[str, dict[str, object]] = {}
    for node in islice(members, _MOST_FLAT):
        if not isinstance(node, dict):
            return {}
        known_as = next(filter(None, map(node.get, _IDENTITIES)), None)
        if isinstance(known_as, str) and len(node) > 1:
            nodes.setdefault(known_as, node)
    return nodes if len(nodes) > 1 else {}


def _put_together(nodes: dict[str, dict[str, object]]) -> None:
    """Put each node where others refer to it."""

    def meant(said: object) -> object:
        if not isinstance(said, dict) or len(said) != 1:
            return said
        name = next((said[key] for key in _REFERENCES if key in said), None)
        return nodes.get(name, said) if isinstance(name, str) else said

    for node in nodes.values():
        for key, said in node.items():
            node[key] = list(map(meant, said)) if isinstance(said, list) else meant(said)


def _is_by_columns(value: dict[str, object]) -> bool:
    """Tell whether an object has the columns of a table, each with its values by the same keys, one of pictures."""
    columns = [column for column in value.values() if isinstance(column, dict)]
    if not 1 < len(columns) == len(value) or any(column.keys() != columns[0].keys() for column in columns):
        return False
    are_pictures = [all(isinstance(said, str) and is_address(said) for said in column.values()) for column in columns]
    return len(columns[0]) > 1 and any(are_pictures) and not all(are_pictures)


class Targets:
    """What the objects in one value may refer to: by a key in a cache of objects, or by the kind and the id of another.

    JSON:API 1.1, 5.2.4 (resource linkage: ``{"type": "files", "id": "7"}``, of ``included``); others wrap that
    (``{"sys": {"linkType": "Asset", "id": "7"}}``, of ``includes``).
    """

    def __init__(self, root: object) -> None:
        self._cache = root if isinstance(root, dict) else {}
        self._included = {key: one for one in _included_in(self._cache) if (key := _identity(one)) is not None}

    def of(self, value: dict[str, object]) -> object:
        """Return what an object refers to; None if it refers to nothing that is there."""
        key = value.get("__ref")
        if isinstance(key, str):
            return self._cache.get(key)
        wrapped = value.get("sys")
        linked = wrapped if isinstance(wrapped, dict) and len(value) == 1 else value
        if not self._included or not linked.keys() <= _OF_LINKS:
            return None
        identity = _identity(linked)
        return self._included.get(identity) if identity is not None else None


def _included_in(root: dict[str, object]) -> Iterator[dict[str, object]]:
    """Yield the objects that an answer brings along for what others refer to."""
    includes = root.get("includes")
    lists = [root.get("included"), *(includes.values() if isinstance(includes, dict) else ())]
    for one in chain.from_iterable(members for members in lists if isinstance(members, list)):
        if isinstance(one, dict):
            yield one


def _identity(value: dict[str, object]) -> tuple[str, str] | None:
    """Return the kind and the id of an object; None if it does not have both."""
    inner = value.get("sys")
    said = inner if isinstance(inner, dict) else value
    kind, own = said.get("linkType", said.get("type")), said.get("id")
    return (kind, own) if isinstance(kind, str) and isinstance(own, str) else None


def _is_flat(value: list[object]) -> bool:
    """Tell whether a list begins with an object, or a wrapped one, that has the places of its values in that list."""
    if not _LEAST_FLAT <= len(value) <= _MOST_FLAT:
        return False
    first = value[0]
    if isinstance(first, list):
        return _is_tagged(first) and _place(first[1], value) is not None
    return bool(first) and isinstance(first, dict) and all(_has_places(one, value) for one in value)


def _is_tagged(value: list[object]) -> bool:
    return len(value) == 2 and isinstance(value[0], str) and value[0] in _TAGS


def _has_places(told: object, flat: list[object]) -> bool:
    """Tell whether a member of a flat list, if it is an object, has places of that list."""
    return not isinstance(told, dict) or all(
        _place(inner, flat) is not None or (isinstance(inner, str) and inner in _NO_PLACES) for inner in told.values()
    )


def _place(said: object, flat: list[object]) -> int | None:
    """Return the place in a flat list that a number is."""
    if not isinstance(said, str) or not said.isdecimal() or not said.isascii() or len(said) > len(str(_MOST_FLAT)):
        return None
    return place if (place := int(said)) < len(flat) else None


def _from_flat(flat: list[object]) -> object:
    """Return the first value of a flat list; what is in several places is one object, which may hold itself."""
    made: list[object] = [{} if isinstance(one, dict) else [] if isinstance(one, list) else one for one in flat]

    def at(said: object) -> object:
        place = _place(said, flat)
        return made[place] if place is not None else None

    def called(name: str) -> str:
        said = at(name.removeprefix(_OF_NAME)) if name.startswith(_OF_NAME) else None
        return said if isinstance(said, str) else name

    for whole, one in zip(made, flat, strict=True):
        if isinstance(whole, dict) and isinstance(one, dict):
            whole.update((called(name), at(inner)) for name, inner in one.items())
        elif isinstance(whole, list) and isinstance(one, list):
            whole.extend(map(at, one[1:] if _is_tagged(one) else one))
    return made[0]


def _is_pair(value: object) -> bool:
    return isinstance(value, list) and len(value) == 2 and isinstance(value[0], str) and value[0].isdecimal()


def _from_pair(value: object, depth: int) -> object:
    """Return the value of a pair: a list of pairs, an object of pairs, or itself."""
    if depth > _DEEPEST or not isinstance(value, list) or not _is_pair(value):
        return value
    kind, inner = value
    if kind == _LIST and isinstance(inner, list):
        return [_from_pair(one, depth + 1) for one in inner]
    if kind == _PLAIN and isinstance(inner, dict):
        return {name: _from_pair(one, depth + 1) for name, one in inner.items()}
    return inner
