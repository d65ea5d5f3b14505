"""Sizes, crops, qualities and formats that an image server reads from the query: one convention with many names."""

import re
from collections.abc import Iterator, Set

from msgspec import Struct

from pickcrate.addresses.lasting import OF_PERMITS
from pickcrate.text.lazyre import lazy

_LENGTHS = lazy(
    # A side by its name, whatever stands before it: w, maxWidth, crop_w, image[height], width-px, imgh
    r"(?!band|line|border|stroke|font|row)"
    r"(?:(?:[a-z\d]+[-_.\[])*(?:[a-z]*(?:width|height)|w|h|wid|hei|wdt?|hgt|ht)\]?(?:[-_](?:px|max|min))?_{0,2}|"
    r"(?:max|mx|min|new|re?s[iz]+e?|size|crop|scale|fit|box|bound|frame|req|out|dest|dst|img|image|pic|photo|thumb|"
    r"tn|tnail)[wh])|"
    # a size of a picture, or the longer side of its box
    r"(?:img|image|pic|picture|photo|thumb|tn|preview|avatar|icon|logo|cover|max|min|max-?side)[-_]?(?:size|dim|side)|"
    r"(?:long|longest|longer|short|shortest|shorter)[-_]?(?:side|edge)|(?:resize|scale)[-_]?to|percent(?:age)?|pct|"
    # names of some image services
    r"[smdrf][wh]|cw|im_[wh]|odn(?:width|height)|scale-down-to|(?:image|img|img_)?thumbnail|imagethumb|[wh]max|"
    r"pixels?|px|res|resolution|dimension|_?(?:ex|sc)|_f[wh]|imgmax|downscale|shrink|max|caw|renditionid|imagepreview",
    re.IGNORECASE,
)
_SIZES = lazy(
    r"resize|rs|thumb|size|scale|zoom|sz|dim|dimensions|fit|crop|rect|r|imresize|imscalingparameters|geometry|impolicy|"
    r"fit[-_]?in|downsize|aki_policy|(?:crop|force)(?:resize|zoom|fit)",
    re.IGNORECASE,
)
_COMPANION_NAMES = frozenset(
    """
q quality qlt fm fmt f format output auto dpr fit crop mode anchor gravity ar aspect rect bg background blur sharp
sharpen usm usmrad strip progressive compress optimize upscale enlarge trim pad fill cs im_q im_fmt interpolation
lossy webp sm sfrm ixlib ixid cache rnd downsize downscale tok ops op_usm op_sharpen a align position focus focal
facepad faceindex mask corner-radius ch pjpg frame func canvas extend min-ar max-ar orient rot flip saturation sat
bri con exp vib hue gam sepia duotone monochrome watermark wm overlay imageslim interlace imgeng filter filters
scalemode smart stretch upsize enlargement sampling dither resample vibrance lossless metadata ext shape fidelity
disable fl vertical zc far iar aoe nocrop cc odnbg op ratio as center preferwebp smartcrop resmode imbypass
crop_to_fit cropratio
""".split()
)
_COMPANIONS = lazy(
    r"optimi[sz]er?|fp-\w+|(?:bg|background|back|fill|pad|border|canvas)[-_]?(?:colou?r|c)|c[aexy]|"
    r"crop[-_]?(?:[xywh]|left|top|mode|to|type|align|offset|ratio)|offset(?:-?[xy])?|aspect[-_]?ratio|resize[-_]?mode|"
    r"r(?:a|xy|mode|anchor|sampler|color)|without_?enlargement|(?:scale|crop|canvas|frame|thumbnail)\.\w+|size_?mode|"
    r"scale[-_]?fit|(?:c|output)[-_]?quality|composite[-_]to",
    re.IGNORECASE,
)
"""what alters a picture beside its size: by name, and by what a name is made of"""

_PROCESS = lazy(
    r"x-[\w-]*process=(?:image|style)|image(?:view|mogr|ave|info|am)\d?(?:[/&|]|$)|imageslim$|\$[\w-]+\$$|"
    r"twic=v\d|(?:im|io|tr|ik-[a-z]+|imgopt|ops|process|img-?proc)=[^&]*?(?:resize|crop|width|height|[wh]-?_?=?\d|n-\w)",
    re.IGNORECASE,
)
"""a whole chain of steps, as object stores and image services have it in one parameter"""

_GENERATORS = frozenset(
    "center markers chl cht chs chd latex tex formula barcode qr qrdata bbox layers text txt data".split()
)
"""parameters of what draws a picture when it is asked: a map, a code, a formula. Its size is its meaning"""

_FOCUS = lazy(r"0?\.\d+(?:,|%2C)0?\.\d+", re.IGNORECASE)
"""the middle of a crop, in parts of the sides: the middle of a map is in degrees"""

_STYLES = frozenset("preview profile preset style variant rendition derivative imageversion class".split())
_OF_ATTACHMENTS = frozenset(("ex", "is", "hm"))
_IDENTITIES = frozenset("id aid attachmentid attachment_id attachment attach fid".split())
_NAMED_SIZES = lazy(
    r"(?:thumb|thumbs|thumbnail|small|medium|large|mini|tiny|preview|teaser|card|square|icon|avatar|list|grid|bigthumb|"
    r"tnail|tn|tinyicon|[smlx]{1,2}|low|lowres)\d{0,4}|\d{2,4}x\d{2,4}|\d{2,4}[wh]?|[wh]\d{2,4}",
    re.IGNORECASE,
)
_BOX = lazy(r"\d{2,4}x\d{2,4}", re.IGNORECASE)
_SMALL = lazy(r"small|medium|thumb(?:nail)?s?|preview|low", re.IGNORECASE)
_LARGER = (
    dict.fromkeys(
        "small medium mini tiny square inline thumb thumbs thumbnail preview teaser".split(),
        ("large", "original", "full"),
    )
    | dict.fromkeys("smt", ("l",))
    | {"low": ("high",), "lowres": ("hires",)}
)
"""words for a size, as values of parameters, with those for larger ones that may stand in their place"""

_MODES = frozenset(
    "s t f mode view display ver version type kind quality file format fmt template tpl tmpl recipe filter conversion "
    "usage transform purpose role context alias styles imagetype imgtype pictype phototype renditiontype formatname "
    "sizename cropname".split()
)
"""parameters that may say so by such a word, and many other things besides: without the hyphens of their names"""

_TWINS = lazy(r"([a-z])[wh]")
_FITS = lazy(r"fill|crop|fit|cover|contain|scale|pad|bounds|inside|outside|limit|smart", re.IGNORECASE)
_HYPHENS = str.maketrans("", "", "-_")

_SWITCHES = frozenset(("thumbnail", "small"))
_YES = frozenset(("1", "true", "yes", "on"))

_LETTER_SIZE = lazy(r"x{0,3}[sml]", re.IGNORECASE)
_LENGTH = lazy(
    r"\d{1,5}(?:\.\d+)?(?:px|p|w|h|%|%25)?(?:(?:[x,*:y]|%2C|%3A)\d{0,5}\w{0,6}?[!<>^@]?)?(?:[,;!].*)?|auto|\*",
    re.IGNORECASE,
)
_SIGNED_HEADERS = ("x-amz-", "x-goog-", "x-oss-")
_SHORTEST_SIGNATURE = 6
_DIGEST = lazy(r"[0-9a-f]{8,}|[\w-]{16,}", re.IGNORECASE)
_FILE = lazy(r"\.(?:jpe?g|png|gif|webp|avif|tiff?|bmp)\Z", re.IGNORECASE)
_NUMBER = lazy(r"\d{1,4}(?:px)?(?:[x,*](?:\d{1,4})?)?|auto|\*", re.IGNORECASE)
_OPTIONS = lazy(r"(?:[a-z]{1,3}_[\w.:]+)(?:,[a-z]{1,3}_[\w.:]+)*", re.IGNORECASE)


class Stripped(Struct, frozen=True):
    """A query without what resizes, and whether it was signed as a whole."""

    query: str
    signed: bool


def strip(query: str) -> Stripped | None:
    """Return a query without its size and what goes with it; None if nothing in it names a size.

    What else is there stays, in its order: a version, an identity, the name of the picture.
    """
    parts = [part for part in query.split("&") if part]
    pairs = [(part.partition("=")[0].removeprefix("amp;"), part.partition("=")[2], part) for part in parts]
    names = {name.lower() for name, _, _ in pairs}
    drawn = {name.lower() for name, value, _ in pairs if _FOCUS.fullmatch(value) is None}
    if not drawn.isdisjoint(_GENERATORS):
        return None
    if names == {"format", "name"}:  # of one kind of post: its picture by name, and "orig" is the original's
        return _by_name({name.lower(): value for name, value, _ in pairs})
    if names == {"thumbnail"} and pairs[0][1].isdecimal():  # a forum's attachment: without its number there is none
        return Stripped(f"aid={pairs[0][1]}", signed=False)
    if not any(_names_a_size(name, value, part, names) for name, value, part in pairs):
        return None
    # What a permit to an attachment covers is its file alone: the sizes stand beside it.
    signed = any(_is_signature(name, value) for name, value, _ in pairs) and not names >= _OF_ATTACHMENTS
    kept = [
        part
        for name, value, part in pairs
        if not (_names_a_size(name, value, part, names) or _goes_with_a_size(name, value))
    ]
    return Stripped("&".join(kept), signed)


def enlarged(query: str) -> Iterator[tuple[str, str]]:
    """Yield a query that asks for a larger picture by a word, ``size=large`` for ``size=small``, and the word.

    What a server sends when it is told no size may be of a middle one.
    """
    parts = query.split("&")
    for place, part in enumerate(parts):
        name, _, value = part.partition("=")
        if not _says_so_by_a_word(name.lower(), value) and _SIZES.fullmatch(name) is None:
            continue
        for word in _LARGER.get(value.lower(), ()):
            larger = word.upper() if value.isupper() else word
            yield "&".join([*parts[:place], f"{name}={larger}", *parts[place + 1 :]]), larger


def _by_name(said: dict[str, str]) -> Stripped | None:
    if said["name"] == "orig" or _NAMED_SIZES.fullmatch(said["name"]) is None:
        return None
    return Stripped(f"format={said['format']}&name=orig", signed=False)


def _goes_with_a_size(name: str, value: str) -> bool:
    """Tell whether a parameter alters the picture, if it stands beside a size: a crop, a colour, a quality."""
    if name.lower() in _STYLES or name.lower() == "version":
        return _NAMED_SIZES.fullmatch(value) is not None and not value.isdecimal()
    if name.lower() in {"f", "q"} and _FILE.search(value) is not None:  # a file, and no format
        return False
    if _FITS.fullmatch(value) is not None or (not value and _LENGTHS.fullmatch(name) is not None):  # w=300&h=
        return True
    is_companion = name.lower() in _COMPANION_NAMES or _COMPANIONS.fullmatch(name) is not None
    return is_companion or (not value and _NUMBER.fullmatch(name) is not None)


def _says_so_by_a_word(name: str, value: str) -> bool:
    """Tell whether a parameter says that a small picture is wanted: ``class=thumb``, ``mode=preview``, ``f=xs``."""
    if name in _SWITCHES and value.lower() in _YES:
        return True
    if name in _STYLES:
        return value[:1].isalpha() and _NAMED_SIZES.fullmatch(value) is not None
    if name == "f" and _LETTER_SIZE.fullmatch(value) is not None:
        return True
    return (name.translate(_HYPHENS) in _MODES or not value) and _SMALL.fullmatch(value or name) is not None


def _names_a_size(name: str, value: str, part: str, names: Set[str]) -> bool:
    """Tell whether a parameter says how large a picture is wanted, beside others called ``names``.

    ``h=0a1b2c3d`` is a version, and ``w=abc`` nothing.
    """
    plain = name.lower()
    is_box = _BOX.fullmatch(value or name) is not None and plain not in _IDENTITIES
    if _PROCESS.match(part) is not None or is_box:
        return True
    if _says_so_by_a_word(plain, value):
        return True
    if plain in {"q", "t", "tr", "transform", "ops"}:  # q=w_300,c_fill
        # a forum's thumbnail of an attachment
        is_small = plain == "t" and value == "1" and not names.isdisjoint(_IDENTITIES)
        steps = re.sub("%2C", ",", value, flags=re.IGNORECASE)
        return is_small or ("_" in value and _OPTIONS.fullmatch(steps) is not None)
    if plain == "s":  # a side in pixels, or a signature
        return re.fullmatch(r"\d{1,4}(?:x\d{1,4})?", value) is not None
    if plain == "type":  # type=w966, type=f200_200
        return re.fullmatch(r"w\d{2,4}(?:_\w+)?|n?f\d{2,4}_\d{2,4}(?:_\w+)?|[sm]\d{3,4}(?:_\w+)?", value) is not None
    if plain == "param":
        return re.fullmatch(r"\d{1,4}y\d{1,4}", value) is not None
    if plain in {"format", "name"}:  # format=300w
        return re.fullmatch(r"\d{2,4}w|(?:\d+x\d+)|small|medium|large|thumb", value) is not None
    if _LENGTHS.fullmatch(name) is not None or _is_twin(plain, names):
        return _LENGTH.fullmatch(value) is not None or _NAMED_SIZES.fullmatch(value) is not None
    return _SIZES.fullmatch(name) is not None and bool(value)


def _is_twin(name: str, names: Set[str]) -> bool:
    """Tell whether a name is one of a width and a height that have one letter before them: ``bw=300&bh=200``."""
    twin = _TWINS.fullmatch(name)
    return twin is not None and {f"{twin[1]}w", f"{twin[1]}h"} <= names


def _is_signature(name: str, value: str) -> bool:
    if name.lower() == "s":
        return _DIGEST.fullmatch(value) is not None and not value.isdecimal()
    if name.lower().endswith("process"):
        return False
    signs = name.lower() in OF_PERMITS or name.lower().startswith(_SIGNED_HEADERS)
    return signs and len(value) >= _SHORTEST_SIGNATURE
