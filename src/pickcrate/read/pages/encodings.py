"""Text by the Encoding standard, on Python's codecs as far as these agree with its indexes (chapter 5).

What a codec lacks, an error handler knows; what it reads as another character is replaced in the text.
"""

import codecs
import re
import threading
import unicodedata
from collections.abc import Callable, Iterator
from functools import cache
from itertools import islice

import webencodings

from pickcrate.text.lazyre import lazy

_REPLACEMENT = "\ufffd"
_CODECS = {"big5": "big5hkscs", "euc-jp": "euc_jp", "euc-kr": "cp949", "gb18030": "gb18030", "shift_jis": "cp932"}
"""encodings in which most characters are pairs of octets, and the codecs that are nearest to them"""

_MOST_UNKNOWN, _MOST_ESCAPES = 200_000, 500_000
"""What has more that a codec does not know is no text in that encoding: each takes microseconds."""

SENT_AS_UTF_8 = frozenset(("utf-8", "utf-16be", "utf-16le", "replacement"))
"""encodings of documents whose forms and addresses are sent in UTF-8 (4.3: get an output encoding)"""

_OTHERS = SENT_AS_UTF_8 | {"x-user-defined"}
_BYTES_READ_OTHERWISE = {"koi8-u": {0xAE: "ў", 0xBE: "Ў"}, "windows-1255": {0xCA: "\u05ba"}}
_GB18030_OF_2022 = (
    "e5e5 3000 e7c7 1e3f e78d fe10 e78e fe12 e78f fe11 e790 fe13 e791 fe14 e792 fe15 e793 fe16 e794 fe17 e795 fe18 "
    "e796 fe19 e81e 9fb4 e826 9fb5 e82b 9fb6 e82c 9fb7 e832 9fb8 e843 9fb9 e854 9fba e864 9fbb"
)
_OF_2022 = "".join(chr(int(code, 16)) for code in _GB18030_OF_2022.split())
_PAIRS_READ_OTHERWISE = {
    "big5": ("•､‾∼♁☉¥¢£", "‧﹑¯～⊕⊙￥￠￡"),
    "euc-jp": ("〜‖−¢£¬", "～∥－￠￡￢"),
    "gb18030": (_OF_2022[::2], _OF_2022[1::2]),
    "shift_jis": ("\uf8f0\uf8f1\uf8f2\uf8f3", 4 * _REPLACEMENT),
}
"""what a codec reads where the standard has another character, and that one"""

_BIG5_FROM_877A = (
    "㡵𡵓𣚞𦀡㻬𥣞㫵竼龗𤅡𨤍𣇪𠪊𣉞䌊蒄龖鐯䤰蘓墖靊鈘秐稲晠権袝瑌篅枂稬剏遆"
    "㓦珄𥶹瓆鿇垳䤯呌䄱𣚎堘穲𧭥讏䚮𦺈䆁𥶙箮𢒼鿈𢓁𢓉𢓌鿉蔄𣖻䂴鿊䓡𪷿拁灮鿋"
)
"""what the Hong Kong set of 2008 has and that of 2004 has not, in the order of its pairs"""

_BIG5_TWICE = (
    "8e69箸8e6f簆8e7e糎8eab緒8eb4縝8ecd者8ed0耨8f57菁8f69蒨8f6e萏8fcb覦8fcc覩8ffe起906d都907a銹90dc靜90f1響91bf鼖9244蔃"
    "92af兙92b0兛92b1兝92b2兞92c8鍮92d1瑹9447浧94ca禛95d9邗9644靝96ed瀞96fc嬨9b76爁9b78矗9b7b纇9bc6駖9bde釔9bec惞9bf6澶"
    "9c42輶9c53侻9c62營9c68鄄9c6b鷰9c77菏9cbc尐9cbd秣9cd0婧9d57輋9d5a筑9dc4拐9ea9恢9eef痹9efd汊9f60鬮9f66鼗9fcb僭9fd8弌"
    "a063蠏a077拎a0d5瑨a0df煢a0e4牐a3e0␡a3e1€c6cf廴c6d3无c6d5癶c6d7隶c6de〃c6df仝fa5f倩fa66偽fabd包fac5卄fad5卿fb48嘅"
    "fbb8婷fbf3幵fbf9廐fc4f彘fc6c悤fcb9撐fce2晴fcf1杞fdb7沜fdb8渝fdbb港fdf1煮fe52猪fe6f瑜feaa瓩fedd砉"
)
"""pairs of older sets, nearly all for characters that have others in that of today"""

_ESCAPE = lazy(rb"\x1b(\([BIJ]|\$[@B])")
_ASCII, _KATAKANA, _ROMAN, _KANJI = b"(B", b"(I", b"(J", b"$B"
"""what begins a set of characters in ISO-2022-JP, behind an escape character (Encoding standard, 12.2)"""

_NOT_IN_ASCII = lazy(r"[\x0e\x0f\x1b\x80-\xff]")
_ROMAN_SIGNS = {"¥": "\\", "‾": "~"}
_OF_KANJI = bytes(octet | 0x80 if 0x21 <= octet <= 0x7E else 0x80 for octet in range(256))
_HALF_WIDTH = range(0xFF61, 0xFFA0)


class _Bound(threading.local):
    """What one decoding may cost."""

    left = 0
    """how often an error handler may be asked before what is read is given up as text in that encoding"""


_bound = _Bound()


def name_of(label: str) -> str | None:
    """Return the Encoding standard's name for a label (4.2), in lower case; None if it knows none."""
    found = webencodings.lookup(label)
    return str(found.name) if found is not None else None


def decoded(octets: bytes, encoding: str) -> str:
    """Return what ``octets`` say in an encoding, which is told by its name; what is malformed becomes U+FFFD."""
    name = _decoder_of(encoding)
    if name in _CODECS:
        text = _of_pairs(octets, name)
        for wrong, right in zip(*_PAIRS_READ_OTHERWISE.get(name, ("", "")), strict=True):
            text = text.replace(wrong, right)
        return text
    if name == "iso-2022-jp":
        return "".join(_pieces(octets))
    if name in _OTHERS:
        return str(webencodings.decode(octets, name, errors="replace")[0])
    return codecs.charmap_decode(octets, "replace", _of_one_byte(name))[0]


def _of_pairs(octets: bytes, name: str) -> str:
    _bound.left = _MOST_UNKNOWN
    try:
        return octets.decode(_CODECS[name], f"pickcrate.{name}")
    except UnicodeDecodeError:
        return octets.decode(_CODECS[name], "replace")


def is_of_pairs(encoding: str) -> bool:
    """Tell whether most characters of an encoding are pairs of octets."""
    return _decoder_of(encoding) in _CODECS


def _decoder_of(encoding: str) -> str:
    return "gb18030" if encoding == "gbk" else encoding  # 10.1.1


@cache
def _of_one_byte(name: str) -> str:
    """Return the characters of all octets; one that has none in 0x80 to 0x9F is a control character (chapter 9)."""
    codec = webencodings.lookup(name).codec_info
    table = {octet: codec.decode(bytes((octet,)), "replace")[0] for octet in range(256)}
    controls = {octet: chr(octet) for octet in range(0xA0) if table[octet] == _REPLACEMENT}
    return "".join((table | controls | _BYTES_READ_OTHERWISE.get(name, {})).values())


def _pieces(octets: bytes) -> Iterator[str]:
    """Yield the text between the escape sequences of ISO-2022-JP (12.2.1)."""
    begins, start = _ASCII, 0
    for escape in islice(_ESCAPE.finditer(octets), _MOST_ESCAPES):
        yield _piece(octets[start : escape.start()], begins)
        begins, start = escape[1], escape.end()
    yield _piece(octets[start:], begins)


def _piece(octets: bytes, begins: bytes) -> str:
    if begins not in {_ASCII, _ROMAN, _KATAKANA}:
        return decoded(octets.translate(_OF_KANJI), "euc-jp") if octets else ""
    if begins == _KATAKANA:
        return "".join(chr(octet + 0xFF40) if 0x21 <= octet <= 0x5F else _REPLACEMENT for octet in octets)
    text = _NOT_IN_ASCII.sub(_REPLACEMENT, octets.decode("latin-1"))
    for sign, octet in _ROMAN_SIGNS.items() if begins == _ROMAN else ():
        text = text.replace(octet, sign)
    return text


def _known_of_gb18030(octets: bytes) -> str:
    return "€" if octets == b"\x80" else ""


@cache
def _known_pairs_of_big5() -> dict[bytes, str]:
    pictures = {bytes((0xA3, 0xC0 + number)): chr(0x2400 + number) for number in range(0x20)}  # of control characters
    latest = {_after_877a(place): character for place, character in enumerate(_BIG5_FROM_877A)}
    return pictures | latest | {bytes.fromhex(pair): one for pair, one in re.findall("(.{4})(.)", _BIG5_TWICE)}


def _after_877a(places: int) -> bytes:
    trail = 0x7A + places
    return bytes((0x87, trail if trail < 0x7F else trail + 0x22))


def _known_of_euc_jp(pair: bytes) -> str:
    """Return a character of JIS X 0208 with what makers of computers added, which the codec of Shift_JIS has."""
    if len(pair) < 2 or min(pair) < 0xA1 or max(pair) == 0xFF:
        return ""
    lead, trail = divmod((pair[0] - 0xA1) * 94 + pair[1] - 0xA1, 188)
    octets = bytes((lead + (0x81 if lead < 0x1F else 0xC1), trail + (0x40 if trail < 0x3F else 0x41)))
    character = octets.decode("cp932", "ignore")
    return "" if character.isascii() else character  # of a pair that means nothing the second octet may be left


def _register(name: str, known: Callable[[bytes], str]) -> None:
    """Register how reading goes on where a codec fails: with a character, or behind what is malformed.

    Of a malformed pair the second octet is read again if it is ASCII, so that no markup is lost (10.2.1, 11.1.1).
    """

    def go_on(error: UnicodeError) -> tuple[str, int]:
        _bound.left -= 1
        if _bound.left < 0 or not isinstance(error, UnicodeDecodeError):
            raise error
        octets = error.object[error.start : error.start + 2]
        for size in range(len(octets), 0, -1):
            if character := known(octets[:size]):
                return character, error.start + size
        is_pair = len(octets) > 1 and octets[0] > 0x80 and octets[1] >= 0x80
        return _REPLACEMENT, error.start + 1 + is_pair

    codecs.register_error(f"pickcrate.{name}", go_on)


_register("big5", lambda pair: _known_pairs_of_big5().get(pair, ""))
_register("euc-jp", _known_of_euc_jp)
_register("gb18030", _known_of_gb18030)
_register("euc-kr", lambda _: "")
_register("shift_jis", lambda _: "")

_FIRST_LEADS = {"big5": 0xA1, "euc-jp": 0xA1}
_LEADS_NOT_SENT = {"shift_jis": (0xED, 0xEE)}
"""those of pairs for characters that have others, which are sent (12.3.2)"""

_JAPANESE = {sign: octet.encode() for sign, octet in _ROMAN_SIGNS.items()}
_SENT_OTHERWISE: dict[str, dict[str, bytes]] = {
    "big5": {"═": b"\xf9\xf9", "╞": b"\xf9\xe9", "╡": b"\xf9\xeb", "╪": b"\xf9\xea", "十": b"\xa4Q", "卅": b"\xa4\xca"},
    "euc-jp": {**_JAPANESE, "−": b"\xa1\xdd", **{chr(one): bytes((0x8E, one - 0xFEC0)) for one in _HALF_WIDTH}},
    "gbk": {"€": b"\x80"},
    "shift_jis": {
        **_JAPANESE,
        "\x80": b"\x80",
        "−": b"\x81\x7c",
        **{chr(one): bytes((one - 0xFEC0,)) for one in _HALF_WIDTH},
    },
}
"""what an encoder sends otherwise than the first pair that is read so (10.2.2, 11.1.2, 12.1.2, 12.3.2)"""


def encoded(text: str, encoding: str) -> bytes:
    """Return the octets of ``text`` in a legacy encoding, for an address or a form (4.3, error mode "html").

    What that encoding does not have becomes a decimal character reference.
    """
    if encoding == "iso-2022-jp":
        return _as_iso_2022_jp(text)
    return b"".join(_octets(character, encoding) for character in text)


def _octets(character: str, encoding: str) -> bytes:
    if character.isascii():
        return character.encode()
    found = _sent_in(encoding).get(character)
    if found is None and encoding == "gb18030" and character != "\ue5e5":
        return character.encode("gb18030", "xmlcharrefreplace")
    return _reference(character) if found is None else found


def _reference(character: str) -> bytes:
    return f"&#{ord(character)};".encode()


def _as_iso_2022_jp(text: str) -> bytes:
    """Return text with what begins each set of characters (12.2.2)."""
    pieces: list[bytes] = []
    last = _ASCII
    for character in text:
        begins, octets = _octets_of_iso_2022_jp(character)
        pieces += (octets,) if begins == last else (b"\x1b", begins, octets)
        last = begins
    return b"".join(pieces) + (b"" if last == _ASCII else b"\x1b" + _ASCII)


def _octets_of_iso_2022_jp(character: str) -> tuple[bytes, bytes]:
    if character in _ROMAN_SIGNS:
        return _ROMAN, _ROMAN_SIGNS[character].encode()
    pair = _sent_in("euc-jp").get(_wide(character))
    if pair is not None:
        return _KANJI, bytes(octet & 0x7F for octet in pair)
    return _ASCII, character.encode() if character.isascii() else _reference(character)


def _wide(character: str) -> str:
    """Return a letter of half the width as one of the full width: ISO-2022-JP sends no other."""
    if ord(character) not in _HALF_WIDTH:
        return character
    return {"\uff9e": "\u309b", "\uff9f": "\u309c"}.get(character) or unicodedata.normalize("NFKC", character)


@cache
def _sent_in(encoding: str) -> dict[str, bytes]:
    """Return the octets of each character that an encoding sends; of several the first (5: "index pointer")."""
    name = _decoder_of(encoding)
    if name not in _CODECS:
        octets = bytes(range(0x80, 0x100))
        return {one: bytes((octet,)) for one, octet in zip(decoded(octets, name), octets, strict=True)}
    leads = (lead for lead in range(_FIRST_LEADS.get(name, 0x81), 0xFF) if lead not in _LEADS_NOT_SENT.get(name, ()))
    least = 0xA1 if name == "euc-jp" else 0x40
    pairs = [bytes((lead, trail)) for lead in leads for trail in range(least, 0xFF)]
    sent: dict[str, bytes] = {}
    for character, pair in zip(decoded(b"\n".join(pairs), name).split("\n"), pairs, strict=True):
        if len(character) == 1 and character != _REPLACEMENT:
            sent.setdefault(character, pair)
    return sent | _SENT_OTHERWISE.get(encoding, {})
