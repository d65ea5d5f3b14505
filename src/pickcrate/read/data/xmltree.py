"""XML as sources have it: read as far as it can be, within bounds, and without loading anything from elsewhere."""

from collections.abc import Iterator
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from lxml import etree

_MOST_BYTES = 50_000_000


def xml_root(octets: bytes) -> "etree._Element | None":
    """Return the root of a document; None if it has none.

    Comments and processing instructions are left out, entities are not expanded; depth is bounded by the parser.
    """
    from lxml import etree  # noqa: PLC0415 (few sources are XML)

    parser = etree.XMLParser(
        recover=True, resolve_entities=False, no_network=True, huge_tree=False, remove_comments=True, remove_pis=True
    )
    try:
        return etree.fromstring(octets[:_MOST_BYTES], parser)
    except (etree.XMLSyntaxError, ValueError):
        return None


def local(name: str | bytes) -> str:
    """Return the name of an element or an attribute without its namespace, declared or not."""
    return str(name).rpartition("}")[2].rpartition(":")[2]


def local_name(element: "etree._Element") -> str:
    """Return the name of an element without its namespace."""
    return local(element.tag)


def local_attribute(element: "etree._Element", name: str) -> str:
    """Return an attribute by its name without its namespace; empty if it is not there."""
    return next((str(text) for key, text in element.attrib.items() if local(key) == name), "")


def within(element: "etree._Element | None", *names: str, deep: bool = True) -> Iterator["etree._Element"]:
    """Yield the elements of some names in an element, or right inside it, whatever their namespaces."""
    if element is None:
        return iter(())
    tags = [f"{{*}}{name}" for name in names]
    return iter(element.iter(*tags)) if deep else iter(element.iterchildren(*tags))
