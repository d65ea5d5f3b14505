"""Where in a page or another source a picture is named: what ``found in`` says, and ``--found-in`` takes."""

from enum import StrEnum


class FoundIn(StrEnum):
    """The kinds of places."""

    IMG = "img"
    PICTURE = "picture"
    LINK = "link"
    INPUT = "input"
    VIDEO = "video"
    OBJECT = "object"
    EMBED = "embed"
    BACKGROUND = "background"
    """the attribute; the property of style sheets is CSS"""
    SVG = "svg"
    CANVAS = "canvas"
    CSS = "css"
    META = "meta"
    DATA = "data"
    SCRIPT = "script"
    FRAME = "frame"
    LOG = "log"
    """what a network log, or a browser, loaded"""
    ARCHIVE = "archive"
    """a picture that an archive holds, and no page in it names"""
    FEED = "feed"
    SOURCE = "source"
    """a source that is itself a picture"""
    METS = "mets"
    IIIF = "iiif"
    VIEWER = "viewer"
    """what a viewer is handed: pictures in tiles"""
    RAW = "raw"
    """what the user's own expression finds in the text of a page"""
    ATTR = "attr"
    """what stands in an attribute that the user names"""
    LIST = "list"
    """a row of a list"""


CALLED = {place.value: place for place in FoundIn}
"""the kinds by what they are called"""


OF_LINKED_DATA = "ld+json"
"""in the place of an attribute, where JSON-LD names a picture"""
