"""The header reader against Pillow's own files, and by hand where Pillow cannot write."""

from typing import Any

import pytest
from PIL import Image as Pillow

from conftest import picture
from pickcrate.media.ending import ends_whole
from pickcrate.media.header import Header, read_header

TURNED = Pillow.Exif()
TURNED[0x0112] = 6

WRITTEN: list[tuple[str, str, dict[str, Any]]] = [
    ("jpeg", "JPEG", {}), ("jpeg", "JPEG", {"progressive": True}), ("png", "PNG", {}), ("gif", "GIF", {}),
    ("webp", "WEBP", {}), ("webp", "WEBP", {"lossless": True}), ("webp", "WEBP", {"exif": b"Exif\0\0MM\0*\0\0\0\x08\0\0"}),
    ("bmp", "BMP", {}), ("tiff", "TIFF", {}), ("avif", "AVIF", {}), ("jp2", "JPEG2000", {}),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "pillow", "options"), WRITTEN)
def test_type_and_size_of_what_pillow_writes(kind: str, pillow: str, options: dict[str, Any]) -> None:
    octets = picture(pillow, (321, 123), **options)
    assert read_header(octets) == Header(kind, 321, 123)
    assert ends_whole(kind, octets[-65536:], len(octets), octets[:64])
    for end in range(0, min(len(octets), 700), 7):  # any prefix: a type, perhaps a size, never an exception
        header = read_header(octets[:end])
        assert header is None or header.type == kind
    if kind in {"jpeg", "png", "webp"}:
        half = octets[: len(octets) // 2]
        assert not ends_whole(kind, half, len(half), half[:64])


def test_size_is_as_shown() -> None:
    assert read_header(picture("JPEG", (40, 20), exif=TURNED)) == Header("jpeg", 20, 40)
    assert read_header(picture("ICO", (64, 64), sizes=[(16, 16), (48, 48)])) == Header("ico", 48, 48)


SVG = [
    ("<svg xmlns='x' width='40' height='30'/>", Header("svg", 40, 30)),
    ("\ufeff<?xml version='1.0'?>\n<!-- <svg> --><!DOCTYPE svg PUBLIC 'a' 'b' [<!ENTITY x 'y'>]>\n<svg viewBox='0 0 10 5' />", Header("svg", 10, 5)),
    ("<s:svg xmlns:s='x' width='1in' viewBox='0,0,2,1'></s:svg>", Header("svg", 96, 48)),
    ("<svg width='100%' height='100%'></svg>", Header("svg", None, None)),
    ("<html><svg width=1></svg></html>", None),
    ("<!DOCTYPE html><html>", None),
    ("plain words", None),
    ("", None),
]  # fmt: skip


@pytest.mark.parametrize(("text", "expected"), SVG)
def test_svg(text: str, expected: Header | None) -> None:
    assert read_header(text.encode()) == expected


def test_jpeg_xl_sizes() -> None:
    # ISO/IEC 18181-1, D.2: small 1, height (7+1)*8, ratio 1:1 / not small, 9 bits each, no ratio
    small = 1 | 7 << 1 | 1 << 6
    assert read_header(b"\xff\x0a" + small.to_bytes(10, "little")) == Header("jxl", 64, 64)
    large = 0 | 0 << 1 | 199 << 3 | 0 << 12 | 0 << 15 | 299 << 17
    assert read_header(b"\xff\x0a" + large.to_bytes(10, "little")) == Header("jxl", 300, 200)
