"""The table of image types: what each is called, and how addresses and servers spell it."""

from msgspec import Struct


class ImageType(Struct, frozen=True):
    """One image format: its name in lists, its file extension, its spellings elsewhere."""

    name: str
    extension: str
    media_types: tuple[str, ...]
    address_extensions: tuple[str, ...]


IMAGE_TYPES: tuple[ImageType, ...] = (
    ImageType("jpeg", "jpg", ("image/jpeg", "image/jpg", "image/pjpeg"), ("jpg", "jpeg", "jpe", "jfif", "pjpeg")),
    ImageType("png", "png", ("image/png", "image/apng", "image/x-png"), ("png", "apng")),
    ImageType("gif", "gif", ("image/gif",), ("gif",)),
    ImageType("webp", "webp", ("image/webp",), ("webp",)),
    ImageType("svg", "svg", ("image/svg+xml",), ("svg", "svgz")),
    ImageType("avif", "avif", ("image/avif",), ("avif", "avifs")),
    ImageType("heic", "heic", ("image/heic", "image/heif"), ("heic", "heif", "hif")),
    ImageType("jxl", "jxl", ("image/jxl",), ("jxl",)),
    ImageType("jp2", "jp2", ("image/jp2", "image/jpx"), ("jp2", "jpx", "jpf")),
    ImageType("j2k", "j2k", ("image/j2c",), ("j2k", "j2c", "jpc")),
    ImageType("tiff", "tif", ("image/tiff",), ("tif", "tiff")),
    ImageType("bmp", "bmp", ("image/bmp", "image/x-ms-bmp", "image/x-bmp"), ("bmp", "dib")),
    ImageType("ico", "ico", ("image/x-icon", "image/vnd.microsoft.icon"), ("ico", "cur")),
)

MOST_PIXELS = 89_000_000
"""Of a picture that is still decoded: it may be made to fill memory. Pillow warns from here on."""

BY_NAME = {kind.name: kind for kind in IMAGE_TYPES}
EXTENSIONS = frozenset(extension for kind in IMAGE_TYPES for extension in kind.address_extensions)
ANY_EXTENSION = "|".join(sorted(EXTENSIONS, key=lambda extension: (-len(extension), extension)))
"""an expression for one of them, the longest first"""

_TYPE_NAMES = frozenset("type mimetype mediatype contenttype format encodingformat".split())
_BY_EXTENSION = {spelling: kind for kind in IMAGE_TYPES for spelling in kind.address_extensions}
_BY_MEDIA_TYPE = {spelling: kind for kind in IMAGE_TYPES for spelling in kind.media_types}
SPELLINGS = {**{s: k.name for s, k in (_BY_MEDIA_TYPE | _BY_EXTENSION).items()}, **{name: name for name in BY_NAME}}
"""every spelling of a type, lower case, to its name"""


def by_extension(extension: str) -> ImageType | None:
    """Return the image type that addresses spell with ``extension`` (without its dot, any case)."""
    return _BY_EXTENSION.get(extension.lower())


def states_a_type(name: str) -> bool:
    """Tell whether data has a file's media type under a name: ``mediaType``, ``MIMETYPE``, ``content-type``."""
    return name.lower().replace("-", "").replace("_", "") in _TYPE_NAMES


def essence(value: str) -> str:
    """Return the media type in a ``Content-Type`` or ``type`` attribute, lower case, without its parameters.

    The word is that of the MIME Sniffing standard (3.1). Of a field that was sent twice the first value counts.
    """
    return value.partition(";")[0].partition(",")[0].strip().lower()


def by_media_type(value: str) -> ImageType | None:
    """Return the image type of a ``Content-Type`` or ``type`` attribute; parameters are ignored."""
    return _BY_MEDIA_TYPE.get(essence(value))


MANY_PIXELS = 10_000_000
"""A picture of more is decoded alone: each takes some hundred megabytes meanwhile."""
