"""The ``Link`` field of a response: what it leads to, and what that is to it (RFC 8288, 3; its appendix B.2)."""

from collections.abc import Iterator

from msgspec import Struct

from pickcrate.addresses.url import absolute
from pickcrate.text.lazyre import lazy

_LONGEST = 100_000
"""characters of a field that are read"""

_VALUE = lazy(r"<([^<>]*+)>((?:[^,\"<]++|\"(?:[^\"\\]++|\\.)*+\"?)*+)")
_PARAMETER = lazy(r";\s*+([\w*-]++)(?:\s*+=\s*+(?:\"((?:[^\"\\]++|\\.)*+)\"?|([^\s;,\"]*+)))?")
_ESCAPED = lazy(r"\\(.)")


class FieldLink(Struct, frozen=True):
    """One link: its target as written and as an absolute address, its relations and other parameters in lower case."""

    raw: str
    url: str
    relations: frozenset[str]
    parameters: dict[str, str]


def links_in(field: str, address: str) -> Iterator[FieldLink]:
    """Yield the links of a field that are those of the response itself, which came from ``address``.

    A ``base`` element is not asked. Of a parameter that is there twice the first counts.
    """
    for value in _VALUE.finditer(field[:_LONGEST]):
        parameters: dict[str, str] = {}
        for name, quoted, token in _PARAMETER.findall(value[2]):
            parameters.setdefault(name.lower(), _ESCAPED.sub(r"\1", quoted) or token)
        context = parameters.get("anchor", "")
        url = absolute(value[1], address)
        if url is not None and (not context or absolute(context, address) == address):
            yield FieldLink(value[1], url, frozenset(parameters.get("rel", "").lower().split()), parameters)
