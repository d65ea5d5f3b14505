"""Text in legacy encodings: by the Encoding standard where Python's codecs know less, or other characters."""

import pytest

from pickcrate.finders import find
from pickcrate.read.pages.document import read_document
from pickcrate.read.pages.encodings import decoded, encoded

OF_PAIRS = ("big5", "euc-jp", "euc-kr", "gbk", "gb18030", "shift_jis")


@pytest.mark.parametrize(
    ("encoding", "octets", "expected"),
    [
        ("big5", "a145a1c2a3c0a3e0a3e1c6e7", "‧¯␀␡€ぁ"),
        ("big5", "877a877e87a187df8e69fedd8862", "㡵㻬𥣞鿋箸砉Ê̄"),
        ("euc-jp", "ada1ade2fcf4a1c1a1dda4a28fa2af8eb6", "①№ⅳ～－あ˘ｶ"),
        ("iso-2022-jp", "411b24422d2124221b284a5c7e1b2849361b284242", "A①あ¥‾ｶB"),
        ("iso-2022-jp", "411b2440242224", "Aあ\ufffd"),
        ("iso-2022-jp", "0e411bff", "\ufffdA\ufffd\ufffd"),
        ("shift_jis", "878aed40f040b65c7e", "㈱纊\ue000ｶ\\~"),
        ("euc-kr", "b0a18141", "가갂"),
        ("gbk", "80a2e3a8bca6d9fe599534b235", "€€ḿ︐龴𠮷"),
        ("gb18030", "80a3a0", "€\u3000"),
        ("windows-1252", "41818d80", "A\x81\x8d€"),
        ("windows-1255", "ca81d9", "\u05ba\x81\ufffd"),
        ("windows-1253", "aa8aff", "\ufffd\x8a\ufffd"),
        ("koi8-u", "aebea4", "ўЎє"),
        ("x-user-defined", "4180ff", "A\uf780\uf7ff"),
        ("utf-8", "41ff", "A\ufffd"),
    ],
)
def test_what_octets_say(encoding: str, octets: str, expected: str) -> None:
    assert decoded(bytes.fromhex(octets), encoding) == expected


@pytest.mark.parametrize(
    ("encoding", "text", "expected"),
    [
        ("big5", "‧十═￥a", b"\xa1\x45\xa4\x51\xf9\xf9\xa2\x44a"),
        ("big5", "㡵", b"&#14453;"),  # in the part that is read only
        ("euc-jp", "①－−¥ｶ˘", b"\xad\xa1\xa1\xdd\xa1\xdd\\\x8e\xb6&#728;"),
        ("iso-2022-jp", "A①ｶﾞ¥é", b"A\x1b$B-!%+!+\x1b(J\\\x1b(B&#233;"),
        ("shift_jis", "㈱−~‾ｶ", b"\x87\x8a\x81\x7c~~\xb6"),
        ("gbk", "€ḿ𠮷", b"\x80\xa8\xbc&#134071;"),
        ("gb18030", "€𠮷\ue5e5", b"\xa2\xe3\x95\x34\xb2\x35&#58853;"),
        ("windows-1252", "\x81€я", b"\x81\x80&#1103;"),
    ],
)
def test_what_is_sent_for_a_text(encoding: str, text: str, expected: bytes) -> None:
    assert encoded(text, encoding) == expected


@pytest.mark.parametrize("encoding", [*OF_PAIRS, "iso-2022-jp", "koi8-u", "windows-1255", "macintosh"])
def test_what_is_sent_is_read_as_the_same(encoding: str) -> None:
    is_single = encoding in {"koi8-u", "windows-1255", "macintosh"}
    kanji = "euc-jp" if encoding == "iso-2022-jp" else encoding
    trails = range(0xA1, 0xFF) if kanji == "euc-jp" else range(0x40, 0xFF)
    octets = (
        bytes(range(0x80, 256))
        if is_single
        else b"\n".join(bytes((0x91 if encoding == "shift_jis" else 0xB0, trail)) for trail in trails)
    )
    text = "".join(character for character in decoded(octets, kanji) if character not in "\n\ufffd@")
    assert len(text) > 80
    assert decoded(encoded(text, encoding), encoding) == text


@pytest.mark.parametrize("encoding", OF_PAIRS)
def test_what_is_malformed_costs_no_markup(encoding: str) -> None:
    for octets in (b"\x81", b"\xff\xff", b"\xfe\xff", b"\xff", b"\xa3\xff"):
        page = b'<img alt="%s"src=a.jpg><img src="%s.jpg">' % (octets, octets)
        fields = {"content-type": f"text/html; charset={encoding}"}
        found = find(read_document(page, source="", address="https://galewick.example/", fields=fields)).references
        assert [one.raw[-4:] for one in found] == [".jpg", ".jpg"]
        assert "\ufffd" in found[1].raw or octets == b"\xa3\xff"


@pytest.mark.parametrize("encoding", ["euc-jp", "shift_jis", "gbk", "big5", "windows-1252"])
def test_a_name_is_that_which_a_browser_asks_for(encoding: str) -> None:
    name = {"windows-1252": "\x81é", "big5": "‧凧"}.get(encoding, "①")
    page = b"<img src='" + encoded(name, encoding) + b".jpg'>"
    fields = {"content-type": f"text/html; charset={encoding}"}
    found = find(read_document(page, source="", address="https://galewick.example/", fields=fields)).references
    assert [one.raw for one in found] == [f"{name}.jpg"]
