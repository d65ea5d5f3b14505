"""The pictures that are the values of cells, and lie on none ("Place in Cell"): rich values of a workbook.

MS-XLSX, 2.3.6 (rich data): a cell names metadata of its value (``vm``, ECMA-376, part 1, 18.3.1.4), these name a rich
value, and that names one of the parts that rich values relate to.
"""

import posixpath
from typing import TYPE_CHECKING

from pickcrate.read.data.xmltree import within, xml_root
from pickcrate.read.office.office import Load, picture, target_of, targets_of

if TYPE_CHECKING:
    from lxml import etree

_RICH = "XLRICHVALUE"
_IDENTIFIER, _TEXT = "_rvRel:LocalImageIdentifier", "Text"
"""what rich values call the number of their part, and the words about a picture"""

_PARTS = ("metadata.xml", "rdrichvalue.xml", "rdrichvaluestructure.xml", "richvaluerel.xml")


def pictures_in_cells(book: str, load: Load) -> list[str]:
    """Return the picture that each piece of values' metadata names, as HTML, by its place; empty for what is none.

    ``book`` is the workbook's own part. A cell counts from 1.
    """
    parts = {posixpath.basename(path).lower(): path for path in targets_of(book, load).values()}
    if not parts.keys() >= set(_PARTS):
        return []
    metadata, values, structures, relations = (xml_root(load(parts[name])) for name in _PARTS)
    leads = targets_of(parts[_PARTS[-1]], load)
    related = [target_of(relation, leads) for relation in within(relations, "rel")]
    shown = _shown(values, structures, related)
    return [shown[place] if 0 <= place < len(shown) else "" for place in _rich_values(metadata)]


def _rich_values(metadata: "etree._Element | None") -> list[int]:
    """Return the place of the rich value that each piece of values' metadata names; -1 where it names none."""
    kinds = [kind.get("name") for kind in within(metadata, "metadataType")]
    ours = (future for future in within(metadata, "futureMetadata") if future.get("name") == _RICH)
    blocks = [_number(block.get("i")) for future in ours for block in within(future, "rvb")]
    found: list[int] = []
    for record in within(next(within(metadata, "valueMetadata"), None), "rc"):
        kind, block = _number(record.get("t")) - 1, _number(record.get("v"))  # the one counts from 1, the other from 0
        is_rich = 0 <= kind < len(kinds) and kinds[kind] == _RICH
        found.append(blocks[block] if is_rich and 0 <= block < len(blocks) else -1)
    return found


def _shown(values: "etree._Element | None", structures: "etree._Element | None", related: list[str]) -> list[str]:
    """Return the picture that each rich value is, as HTML; empty for those that are none."""
    keys = [[key.get("n") for key in within(structure, "k", deep=False)] for structure in within(structures, "s")]
    found: list[str] = []
    for value in within(values, "rv"):
        kind = _number(value.get("s"))
        of_value = keys[kind] if 0 <= kind < len(keys) else []
        said = dict(zip(of_value, (one.text for one in within(value, "v", deep=False)), strict=False))
        place = _number(said.get(_IDENTIFIER))
        part = related[place] if 0 <= place < len(related) else ""
        found.append(picture(part, said.get(_TEXT) or "") if part else "")
    return found


def _number(said: str | None) -> int:
    """Return a number as an attribute has it; -1 where it has none."""
    return int(said) if said and said.isdecimal() and len(said) < 10 else -1
