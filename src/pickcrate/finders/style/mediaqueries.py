"""What a media query asks of a screen (Media Queries Level 4), as far as it tells how large a picture is."""

import re

from pickcrate.text.lazyre import lazy

_LEAST_DENSITY = lazy(
    r"(?:min-(?:device-pixel-ratio|resolution)\s*:|resolution\s*>=?)\s*(\d{1,3}(?:\.\d{1,4})?)(dpi|dpcm|dppx|x|)",
    re.IGNORECASE,
)
_DOTS_OF_ONE = {"dpi": 96.0, "dpcm": 96 / 2.54}
"""dots an inch or a centimetre of one pixel for each CSS pixel (CSS Values 4, 6.4)"""


def least_density(query: str) -> float | None:
    """Return the pixels for each CSS pixel that a media query asks a screen for (Media Queries Level 4, 4.6)."""
    asked = _LEAST_DENSITY.search(query)
    if asked is None:
        return None
    return float(asked[1]) / _DOTS_OF_ONE.get(asked[2].lower(), 1)
