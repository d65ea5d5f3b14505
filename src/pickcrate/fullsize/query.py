"""Sizes, crops, qualities and formats that an image server reads from the query: one convention with many names."""

import re

from pickcrate.frozen import frozen
from pickcrate.lazyre import lazy

_SIZES = lazy(
    r"w|h|width|height|wid|hei|sw|sh|mw|mh|dw|dh|maxw|maxh|max_?-?(?:w|h|width|height|side|size|sidesize)|min-?(?:w|h)|"
    r"resize|imwidth|imheight|im_w|im_h|odn(?:width|height)|rs|thumb|thumbnail|size|scale|zoom|sz|dim|dimensions|"
    r"fit|crop|rect|r|imresize|imscalingparameters",
    re.IGNORECASE,
)
_COMPANIONS = lazy(
    r"q|quality|qlt|fm|fmt|f|format|output|auto|dpr|fit|crop|mode|anchor|gravity|ar|aspect|rect|bg|background|blur|"
    r"sharp|sharpen|usm|usmrad|strip|progressive|compress|optimize|optimi[sz]er?|upscale|enlarge|trim|pad|fill|cs|"
    r"impolicy|im_q|im_fmt|interpolation|lossy|webp|sm|sfrm|ixlib|ixid|cache|rnd|downsize|downscale|tok|ops|"
    r"op_usm|a|align|position|focus|focal|fp-\w+|facepad|faceindex|mask|corner-radius|ch|pjpg|frame",
    re.IGNORECASE,
)
_SIGNATURES = lazy(
    r"sig|signature|sign|hmac|hash|hm|oh|policy|key-pair-id|x-(?:amz|goog|oss)-.*|signed|token|verify|hdnts|hdnea|"
    r"__token__|auth|st|ttl|exp|expires|ex|se|sp|sv|sr",
    re.IGNORECASE,
)
_SHORTEST_SIGNATURE = 6
_DIGEST = lazy(r"[0-9a-f]{8,}|[\w-]{16,}", re.IGNORECASE)
_NUMBER = lazy(r"\d{1,4}(?:px)?(?:[x,*](?:\d{1,4})?)?|auto|\*", re.IGNORECASE)
_OPTIONS = lazy(r"(?:[a-z]{1,3}_[\w.:]+)(?:,[a-z]{1,3}_[\w.:]+)*", re.IGNORECASE)


@frozen
class Stripped:
    """A query without what resizes, and whether it was signed as a whole."""

    query: str
    signed: bool


def strip(query: str) -> Stripped | None:
    """Return a query without its size and what goes with it; None if nothing in it names a size.

    What else is there stays, in its order: a version, an identity, the name of the picture.
    """
    parts = [part for part in query.split("&") if part]
    pairs = [(part.partition("=")[0].removeprefix("amp;"), part.partition("=")[2], part) for part in parts]
    if not any(_names_a_size(name, value) for name, value, _ in pairs):
        return None
    signed = any(_is_signature(name, value) for name, value, _ in pairs)
    kept = [
        part
        for name, value, part in pairs
        if not (_names_a_size(name, value) or _COMPANIONS.fullmatch(name) or (not value and _NUMBER.fullmatch(name)))
    ]
    return Stripped("&".join(kept), signed)


def _names_a_size(name: str, value: str) -> bool:
    if name.lower() in {"q", "t", "tr", "transform", "ops"}:  # q=w_300,c_fill
        return "_" in value and _OPTIONS.fullmatch(value.replace("%2C", ",").replace("%2c", ",")) is not None
    if name.lower() == "s":  # a side in pixels, or a signature
        return value.isdecimal() and len(value) <= 4
    if name.lower() in {"format", "name"}:  # format=300w
        return re.fullmatch(r"\d{2,4}w|(?:\d+x\d+)|small|medium|large|thumb", value) is not None
    return _SIZES.fullmatch(name) is not None and bool(value)


def _is_signature(name: str, value: str) -> bool:
    if name.lower() == "s":
        return _DIGEST.fullmatch(value) is not None and not value.isdecimal()
    return _SIGNATURES.fullmatch(name) is not None and len(value) >= _SHORTEST_SIGNATURE
