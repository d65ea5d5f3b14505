"""What the name of an attribute or a JSON key says of size: ``data-full-src`` is large, ``thumbUrl`` small.

Programs name the versions of a picture in many ways, out of few words.
"""

import re
from functools import lru_cache

from pickcrate.text.lazyre import lazy

LARGEST, LARGE, UNSAID, MEDIUM, SMALL, STAND_IN = 3, 2, 1, 0, -1, -2

_WORDS = {
    LARGEST: """
        orig original originals full fullsize fullres fullscreen hires hirez highres highresolution raw master max
        maximum maxres uhd 4k download downloads print uncropped""",
    LARGE: """
        zoom zoomed zoomimage magnify magnifier magnified big bigger large larger largest largeimage xl xxl xxxl
        xlarge xxlarge huge hd hi hidpi high lightbox popup enlarge enlarged desktop wide retina 2x 3x hq expand
        detail""",
    MEDIUM: "webformat medium med middle mid msrc tablet regular normal standard md m",
    SMALL: """
        small smaller smallest sm s xs xsmall mini micro tiny thumb thumbs thumbnail thumbnails tn th mobile icon
        preview low lowsrc lowres lores lq square teaser smallimage listing""",
    STAND_IN: """
        placeholder blank loading loader preloader spinner lqip blur blurred fallback error default dummy empty pixel
        spacer transparent""",
}
_RANKS = {word: rank for rank, words in _WORDS.items() for word in words.split()}
_GENERIC = frozenset(
    "data src srcset set url urls uri href image images img imgs photo photos picture pictures pic file files source "
    "path link lazy bg background media content contenturl asset address location size value extra resolution quality "
    "version format tiff tif jpeg jpg png webp".split()
)
_OTHERS = frozenset(
    "hover hovered rollover mouseover second secondary alternate alternative alt back rear reverse flip flipped swap "
    "other logo brand avatar author badge flag marker pin share social qr seal watermark overlay mask pattern texture "
    "swatch sprite chart before after variant option front side".split()
)
_BACKGROUNDS = frozenset(("bg", "background"))
_PICTURES = frozenset(
    "image images img imgs photo photos picture pictures pic pics thumb thumbs thumbnail thumbnails poster cover "
    "avatar logo background bg artwork banner screenshot portrait depiction covers posters banners artworks "
    "screenshots portraits depictions photograph photographs illustration illustrations snapshot snapshots "
    "foto fotos fotografie bild bilder imagen imagenes imagem imagens immagine immagini afbeelding afbeeldingen".split()
)
_OF_EDM = {"edmpreview": "thumbnail", "edmobject": "image", "edmisshownby": "image", "edmhasview": "image"}
"""what the properties that lead to pictures say (Europeana Data Model, ore:Aggregation), as data in JSON calls them"""

_ADDRESSES = frozenset("url urls uri src".split())
ADDRESS_WORDS = frozenset(("url", "src", "href", "uri"))
"""words of a name that say no more than that an address stands there"""

_GLUED = ("image", "img", "photo", "picture", "pic", "src", "url", "file")
_GLUED_BEHIND = lazy(r"([a-z]{3,30}?)(image|img|photo|picture|thumbnail)(ur[il])?")
"""words of which the last say that it is a picture, or its address: ``primaryimageurl``"""

_ANYTHING = frozenset(
    "default mqdefault hqdefault sddefault maxresdefault unnamed untitled noname data index attachment foto bild "
    "imagen imagem immagine afbeelding".split()
)
"""other names that cameras, services and programs give to all their pictures alike"""

_ONLY_SIZES = lazy(r"\d{2,4}x(?:\d{2,4})?|[wh]?\d{2,4}(?:px|w)")
_SIZED_WORDS = lazy(
    r"([a-z]+(?:[-_ ][a-z]+)*)[-_ ](?:\d{2,4}x\d{2,4}|(?:21|16|5|4|3|2|1)[-_:x](?:9|5|4|3|2|1))", re.IGNORECASE
)
"""words, and behind them sides or the ratio of sides"""

SHORTEST_HASH = 16
_HASH = lazy(
    r"(?<![0-9a-z])(?:[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}|(?=[a-f]*[0-9])(?=[0-9]*[a-f])[0-9a-f]{16,128})(?![0-9a-z])"
)
_ONE_TOKEN = lazy(r"[A-Za-z0-9]{10,100}")
_LONG, _FEWEST_OF_WORD = 20, 3
_SIZE_BEHIND = lazy(r"=[swh]\d{1,5}(?:-[a-z0-9-]{1,40})?\Z")
"""how a size stands behind a token (``…=w1200-h800``)"""

_LIKE_A_WORD = lazy(r"[a-z]{3}|[A-Z]{5}")
_LETTER_ALONE = lazy(r"(?<![a-z])[a-z](?![a-z])")
_FEWEST_LETTERS, _OFTEN = 2, 3
"""different letters (``1600x1200x3`` has one); numbers, or small letters alone"""

_LONGEST_OF_A_CAMERA = 60
_OF_A_CAMERA = lazy(
    r"(?:_?(?:dsc[fn]?|imgp?|mg|dji|gopr|pxl|mvimg|cimg|hpim|kimg|screen ?shot|whatsapp image)[-_ ]?\d{3,14}"
    r"|p\d{7}|\d{8}[-_ ]?\d{4,9})"
    r"(?:(?: at |[-_ .~(]{1,2})\d{1,9}\)?){0,8}\)?",
    re.IGNORECASE,
)

_RUNS = lazy(r"[A-Z]?[a-z]+|[A-Z]+|\d+")
_SHORT_RUNS = 2.5
"""characters: in long random text no more of one kind stand in a row, on the average; in words there are more"""

_WORD = lazy(r"[^\W\d_]{3}")
_WHOLE_WORD = lazy(r"(?<![^\W_])\d*[^\W\d_]{3,}\d*(?![^\W_])")
_SIGNS = lazy(r"[\W_]+")
_NUMBER = lazy(r"\d+")
_LONGEST_COMMON = 24
_LONGEST_NAME = 200
_PIECES = lazy(r"[A-Z]?[a-z]+|[A-Z]+(?![a-z])|\d+[a-zA-Z]?")


def rank(name: str) -> int:
    """Return how large ``name`` says that its picture is; UNSAID if it says nothing.

    Of several words the smallest wins: ``thumb-full`` is a whole thumbnail, ``placeholder-large`` a placeholder.
    """
    ranks = [_RANKS[word] for word in words_in(name) if word in _RANKS]
    low = [one for one in ranks if one < UNSAID]
    return min(low) if low else max(ranks, default=UNSAID)


def in_order(rank: int) -> tuple[bool, int]:
    """Return the order in which versions are shown: the smallest first, and last what only stands in for them."""
    return rank == STAND_IN, rank


def names_a_version(name: str) -> bool:
    """Tell whether ``name`` is made of nothing but words for sizes and words for pictures and addresses."""
    words = words_in(name)
    return bool(words) and all(word in _RANKS or word in _GENERIC or word.isdecimal() for word in words)


def bare_name(name: str) -> str:
    """Return a name without capitals and signs: ``next_page-token``, ``page[number]``, ``$skip``."""
    return _SIGNS.sub("", name).lower()


def words_besides_size(name: str) -> tuple[str, ...]:
    """Return the words of a name that are neither for sizes nor for pictures and addresses: what it is called."""
    return tuple(word for word in words_in(name) if word not in _RANKS and word not in _GENERIC)


def names_any(name: str) -> bool:
    """Tell whether ``name`` may be that of any picture: nothing but a size, or words for sizes, pictures, addresses.

    What holds a picture's place is none.
    """
    if not 0 < len(name) <= _LONGEST_COMMON or name.isdecimal():
        return False
    if any(map(str.isdigit, name)):
        if _ONLY_SIZES.fullmatch(name) is not None:
            return True
        sized = _SIZED_WORDS.fullmatch(name)
        return sized is not None and _is_of_any(sized[1])
    return _is_of_any(name)


def _is_of_any(words: str) -> bool:
    return words.lower() in _ANYTHING or (names_a_version(words) and rank(words) != STAND_IN)


def is_opaque(name: str) -> bool:
    """Tell whether ``name`` identifies a picture and says nothing of it: a hash, a UUID (RFC 9562, 4), random text."""
    token = _without_signs(_SIZE_BEHIND.sub("", name)) if len(name) >= _LONG else name
    if _ONE_TOKEN.fullmatch(token) is not None and _is_random(token):
        return True
    if len(name) < SHORTEST_HASH:
        return False
    rest, hashes = _HASH.subn("", name[:_LONGEST_NAME].lower())
    return hashes > 0 and _WHOLE_WORD.search(rest) is None


def has_word(name: str) -> bool:
    """Tell whether a name has a word in it: three letters in a row."""
    return _WORD.search(name) is not None


def _without_signs(name: str) -> str:
    """Return a name without the signs in it, as base64 has some of them (RFC 4648, 5); with them if they part words."""
    pieces = name.replace("_", "-").split("-")
    return name if any(len(piece) >= _FEWEST_OF_WORD and piece.isalpha() for piece in pieces) else "".join(pieces)


def _is_random(token: str) -> bool:
    """Tell whether letters and digits are mixed as no word or number has them: ``8f3a9c1be77d4``, ``51aBcDeFgHL``."""
    numbers, alone = len(_NUMBER.findall(token)), len(_LETTER_ALONE.findall(token))
    if numbers and _LONG <= len(token) <= _SHORT_RUNS * len(_RUNS.findall(token)):
        return True
    if len(set(filter(str.isalpha, token.lower()))) < _FEWEST_LETTERS or _LIKE_A_WORD.search(token) is not None:
        return False
    return numbers > 0 and max(numbers, alone) >= _OFTEN


def is_of_a_camera(name: str) -> bool:
    """Tell whether a camera or a phone made up ``name``, of its mark and a number or of the time.

    ``IMG_2041``, ``DSC00017`` (JEITA CP-3461, Design rule for Camera File system), ``20260512_101112``.
    """
    return len(name) <= _LONGEST_OF_A_CAMERA and _OF_A_CAMERA.fullmatch(name) is not None


def size_named(name: str) -> int:
    """Return how large a name that may be that of any picture says that it is: by its width, or by its words."""
    match = _NUMBER.search(name) if _ONLY_SIZES.fullmatch(name) is not None else None
    return int(match[0]) if match is not None else rank(name)


def names_a_placeholder(name: str) -> bool:
    """Tell whether ``name`` is made of nothing but words for what holds a picture's place, and for pictures."""
    return rank(name) == STAND_IN and names_a_version(name) and not any(map(str.isdigit, name))


def names_another(name: str) -> bool:
    """Tell whether ``name`` is that of another picture in the same place: the other side, a maker's sign, a badge."""
    return not _OTHERS.isdisjoint(words_in(name))


def names_a_background(name: str) -> bool:
    """Tell whether ``name`` is that of what lies behind an element."""
    return not _BACKGROUNDS.isdisjoint(words_in(name))


def names_a_picture(name: str) -> bool:
    """Tell whether ``name`` ends in a word for pictures, but for words for sizes and addresses: ``heroImageUrl``."""
    words = list(words_in(name))
    while words and words[-1] not in _PICTURES:
        if words[-1] not in _ADDRESSES and words[-1] not in _RANKS and not words[-1].isdecimal():
            return False
        words.pop()
    return bool(words)


def words_in(name: str) -> tuple[str, ...]:
    """Return the words that a name is made of, in lower case: ``redDelta_2x`` is ``red``, ``delta``, ``2x``."""
    return _words_of(name[:_LONGEST_NAME])


@lru_cache(maxsize=4_096)
def _words_of(name: str) -> tuple[str, ...]:
    if (said := _OF_EDM.get(name.replace(":", "").lower())) is not None:
        return (said,)
    return tuple(word for piece in _PIECES.findall(name) for word in _parted(piece.lower()))


def _parted(piece: str) -> tuple[str, ...]:
    """Return the two words that are written as one, if there are such: ``largeimg``, ``imgbig``."""
    is_whole = piece in _RANKS or piece in _GENERIC
    if is_whole or not (piece.startswith(_GLUED) or piece.endswith(_GLUED)):  # as nearly all
        return (piece,)
    for word in _GLUED:
        before, behind = piece.removesuffix(word), piece.removeprefix(word)
        if before != piece and (before in _RANKS or before in _GENERIC):
            return (before, word)
        if behind != piece and (behind in _RANKS or behind in _GENERIC):
            return (word, behind)
    match = _GLUED_BEHIND.fullmatch(piece)
    return tuple(filter(None, match.groups())) if match is not None else (piece,)
