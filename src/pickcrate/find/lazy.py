"""Pictures that a script is to put in place: any attribute whose value is an image address, a srcset or such JSON.

There are as many names for these attributes as there are programs that read them, so it is the value that decides.
Where a value has no extension, the name of an attribute of an ``img`` may still say what it is.
"""

import re
from collections.abc import Iterable, Iterator
from dataclasses import replace

from pickcrate.addresses import claims_no_image, image_type
from pickcrate.find.literals import in_value
from pickcrate.find.place import Place
from pickcrate.find.srcset import ImageCandidateString
from pickcrate.values import Reference, Role

# Read by other finders, or words about a picture rather than its address.
_OTHERS = frozenset(
    "src srcset imagesrcset href xlink:href poster background style alt title class id name value placeholder download "
    "for content itemprop property aria-label aria-describedby type sizes media srcdoc action cite longdesc usemap "
    "data-filename data-title data-caption data-alt data-name".split()
)
_LAZY_NAME = re.compile(
    r"data-(?:[\w-]*-)?(?:src|original|lazy|image|img|full|large|zoom|hires|retina|bg|background|thumb|poster)"
    r"(?:-(?:src|url|image|img|href|2x|retina|full|large))?",
)
_SET_NAME = re.compile(r"data-[\w-]*srcset")
_LOOSE_ADDRESS = re.compile(r"(?:(?:https?:)?//|\.{0,2}/)[^\s<>{}\"'\\]+", re.IGNORECASE)
# A name and the start of a value that holds an extension, anywhere in the source: cheaper than asking each element.
_CARRIER = re.compile(
    r"[\s\"']([a-zA-Z][\w-]*)\s*=\s*(?:\"[^\"<>]*?\.[a-zA-Z0-9]{2,5}[\"?#,\s&}\\)\]]|'[^'<>]*?\.[a-zA-Z0-9]{2,5}['?#,\s\"}\\)\]]"
    r"|[^\s\"'=<>`]+\.[a-zA-Z0-9]{2,5}[\s/>?#])"
)


def carriers(source: str) -> set[str]:
    """Return the names of the attributes in ``source`` that may hold image addresses and have no finder of theirs."""
    names = {name.lower() for name in set(_CARRIER.findall(source))}
    names.update(
        name for name in set(re.findall(r"\sdata-[\w-]+(?=\s*=)", source)) if _LAZY_NAME.fullmatch(name.strip().lower())
    )
    return {name.strip().lower() for name in names} - _OTHERS


def find_in_attributes(place: Place, names: set[str]) -> Iterator[Reference]:
    """Yield the pictures in the attributes of ``place`` that are among ``names``."""
    node = place.node
    picture = place.around.picture
    is_picture = node.tag in {"img", "source"}
    inner = None if is_picture else node.css_first("img")
    cluster = (picture if picture is not None and is_picture else None) or inner or node
    role = Role.LAZY if is_picture or inner is not None else Role.SHOWN
    prototype = place.prototype("data", cluster=cluster, role=role)
    for name, value in place.attributes.items():
        if name not in names or not value:
            continue
        entries = list(in_value(value)) or list(_by_name(place, name, value))
        several = len(entries) > 1
        for entry in entries:
            reference = place.at(prototype, name, entry.url)
            if reference is None:
                continue
            sized = entry.width is not None or entry.density is not None
            # The entries of one srcset are one picture; those of a JSON list are a picture each.
            loose = several and not sized and role is Role.SHOWN
            yield replace(
                reference,
                width=entry.width,
                density=entry.density,
                role=Role.SIZE if sized and is_picture else role,
                cluster=place.walk.new_cluster() if loose else reference.cluster,
            )


def _by_name(place: Place, name: str, value: str) -> Iterable[ImageCandidateString]:
    """Return an address without an extension where an image's attribute is plainly named for one."""
    if place.node.tag not in {"img", "source"} or not _LAZY_NAME.fullmatch(name):
        return ()
    text = value.strip()
    if not _LOOSE_ADDRESS.fullmatch(text):
        return ()
    url = place.resolve(text)
    if url is None or claims_no_image(url) or (image_type(url) is None and text in {"/", "//"}):
        return ()
    return (ImageCandidateString(text),)
