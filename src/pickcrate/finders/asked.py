"""What a user asks to be found besides: addresses by a pattern in the raw source, and attributes by their names."""

import itertools
from collections.abc import Iterator

from msgspec.structs import replace

from pickcrate.finders.data.strings import unescape
from pickcrate.finders.place import Place, Walk
from pickcrate.finders.srcset import parse_srcset
from pickcrate.values.foundin import FoundIn
from pickcrate.values.reference import Reference, Role
from pickcrate.values.wanted import Asked

_MOST_MATCHES = 100_000


def find_in_source(walk: Walk, asked: Asked) -> Iterator[Reference]:
    """Yield what the patterns match in the page's source, unescaped, as addresses."""
    text = walk.page.text
    for pattern in asked.patterns:
        line, at = 1, 0
        for match in itertools.islice(pattern.find_all(text), _MOST_MATCHES):
            raw = unescape((match[1] or "") if pattern.groups else match[0])
            line, at = line + text.count("\n", at, match.start()), match.start()
            page = walk.page
            prototype = Reference("", "", page.address, FoundIn.RAW, "", "", walk.new_cluster(), trust=page.trust)
            reference = walk.point(prototype, "", raw)
            if reference is not None:
                yield replace(reference, line=line)


def find_in_named(place: Place, asked: Asked) -> Iterator[Reference]:
    """Yield the addresses in the attributes that were asked for, whatever they look like."""
    is_picture = place.node.tag in {"img", "source"}
    prototype = place.prototype(FoundIn.ATTR, cluster=place.node, role=Role.LAZY if is_picture else Role.SHOWN)
    for name in asked.attributes.intersection(place.attributes):
        value = place.get(name)
        entries = parse_srcset(value)
        if len(entries) == 1 and entries[0].width is None and entries[0].density is None:
            reference = place.at(prototype, name, value)
            yield from () if reference is None else (reference,)
            continue
        for entry in entries:
            if (reference := place.at_entry(prototype, name, entry)) is not None:
                yield reference
