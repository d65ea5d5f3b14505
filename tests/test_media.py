"""The header reader against Pillow's own files, and by hand where Pillow cannot write."""

import csv
import struct
from io import BytesIO
from pathlib import Path
from typing import Any

import pytest
from PIL import Image as Pillow

from conftest import Program, Server, picture
from pickcrate.media.ending import ends_whole
from pickcrate.media.header import Header, read_header
from pickcrate.media.whole import header_of_file

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
    ("<svg hidden><symbol id=a /></svg><p><svg><use href='#a' /></svg> <img src=a.png>", None),
    ("<svg viewBox='0 0 10 5'><svg width='1'><g/></svg><svg /><g/></svg><?x y?>\n<!-- <svg> -->\n", Header("svg", 10, 5)),
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


def test_sizes_in_old_and_wrapped_forms() -> None:
    core = b"BM" + bytes(12) + struct.pack("<IHHHH", 12, 40, 30, 1, 24)
    assert (read_header(core), read_header(core[:20])) == (Header("bmp", 40, 30), None)
    codestream = b"\xff\x0a" + (1 | 7 << 1 | 1 << 6).to_bytes(10, "little")
    start = b"\0\0\0\x0cJXL \r\n\x87\n" + box(b"ftyp", b"jxl \0\0\0\0jxl ")
    assert read_header(start + box(b"jxlc", codestream)) == Header("jxl", 64, 64)
    assert read_header(start + box(b"jxlp", bytes(4), codestream)) == Header("jxl", 64, 64)
    assert read_header(start + box(b"jxlc", codestream[:5])) == Header("jxl")


def box(kind: bytes, *content: bytes) -> bytes:
    inside = b"".join(content)
    return struct.pack(">I", len(inside) + 8) + kind + inside


def heif(*properties: bytes, items: dict[int, list[int]], primary: int = 1) -> bytes:
    """A HEIF by ISO/IEC 23008-12, 9.3 and 14496-12, 8.11: properties, and those that each item has."""
    said = b"".join(
        struct.pack(">HB", item, len(has)) + bytes(0x80 | index for index in has) for item, has in items.items()
    )
    association = box(b"ipma", struct.pack(">II", 0, len(items)), said)
    inside = box(b"iprp", box(b"ipco", *properties), association)
    meta = box(b"meta", bytes(4), box(b"hdlr", bytes(24)), box(b"pitm", bytes(4), struct.pack(">H", primary)), inside)
    return box(b"ftyp", b"heic", bytes(4), b"mif1heic") + meta


THUMB, WHOLE = (box(b"ispe", bytes(4), struct.pack(">II", *size)) for size in ((320, 240), (4032, 3024)))
TURN, MIRROR = box(b"irot", b"\1"), box(b"imir", b"\0")
CROP = box(b"clap", struct.pack(">IIIIiIiI", 4000, 1, 6000, 2, 0, 1, 0, 1))
HEIF = [
    (heif(THUMB, WHOLE, items={1: [2], 2: [1]}), (4032, 3024)), (heif(THUMB, WHOLE, items={1: [2], 2: [1]}, primary=2), (320, 240)),
    (heif(WHOLE, TURN, MIRROR, items={1: [1, 2, 3]}), (3024, 4032)), (heif(WHOLE, TURN, THUMB, items={1: [1], 2: [3, 2]}), (4032, 3024)),
    (heif(WHOLE, CROP, TURN, items={1: [1, 2, 3]}), (3000, 4000)), (heif(TURN, WHOLE, items={1: [1, 2]}), (3024, 4032)), (heif(WHOLE, MIRROR, items={1: [1, 2]}), (4032, 3024)),
]  # fmt: skip


@pytest.mark.parametrize(("octets", "size"), HEIF)
def test_heif_is_as_large_as_its_primary_item_is_shown(octets: bytes, size: tuple[int, int]) -> None:
    assert read_header(octets) == Header("heic", *size)
    for end in range(12, len(octets)):
        header = read_header(octets[:end])
        assert header is None or header.type == "heic"


def big_tiff(order: str, between: bytes = b"") -> bytes:
    entries = struct.pack(f"{order}HHQI4xHHQQ", 256, 4, 1, 70_000, 257, 16, 1, 900)
    return (
        {"<": b"II", ">": b"MM"}[order]
        + struct.pack(f"{order}HHHQ", 43, 8, 0, 16 + len(between))
        + between
        + struct.pack(f"{order}Q", 2)
        + entries
    )


def tiff(between: bytes) -> bytes:
    return (
        b"II*\0"
        + struct.pack("<I", 8 + len(between))
        + between
        + struct.pack("<HHHIHxxHHII", 2, 256, 3, 1, 9000, 257, 4, 1, 70)
    )


def jpeg(between: bytes) -> bytes:
    turned = picture("JPEG", (300, 200), exif=TURNED)
    at = turned.index(b"\xff\xdb")
    return turned[:at] + between + turned[at:]


FTYP, META = HEIF[0][0][:24], HEIF[0][0][24:]
DATA = bytes(range(1, 256)) * 12_000
SEGMENT = b"\xff\xed" + struct.pack(">H", 65_535) + bytes(65_533)
LATE = [
    ("tiff", tiff(DATA), (9000, 70)), ("big tiff", big_tiff("<", DATA), (70_000, 900)), ("MM", big_tiff(">", DATA), (70_000, 900)),
    ("heif", FTYP + box(b"mdat", DATA) + META, (4032, 3024)), ("jpeg", jpeg(SEGMENT * 40), (200, 300)),
    ("long box", FTYP + struct.pack(">I4sQ", 1, b"mdat", len(DATA) + 16) + DATA + box(b"free", DATA) + META, (4032, 3024)),
    ("garbage", jpeg(SEGMENT * 9 + b"\0" * 9 + SEGMENT), (200, 300)),
]  # fmt: skip


class Counting(BytesIO):
    read_bytes = 0

    def read(self, size: int | None = -1, /) -> bytes:
        octets = super().read(size)
        self.read_bytes += len(octets)
        return octets


@pytest.mark.parametrize(("octets", "size"), [row[1:] for row in LATE], ids=[row[0] for row in LATE])
def test_what_a_file_says_late_of_its_size_is_found(octets: bytes, size: tuple[int, int]) -> None:
    file = Counting(octets)
    header = header_of_file(file)
    assert header is not None
    assert (header.width, header.height) == size
    assert file.read_bytes < len(octets) + 300_000
    for end in (300_000, len(octets) - 60, len(octets) // 2):
        assert header_of_file(BytesIO(octets[:end])) in {Header(header.type), header}


@pytest.mark.parametrize(
    "octets", [b"\xff\xd8\xff" + DATA * 3, b"\xff\xd8" + b"\xff\1" * 4_000_000, b"II*\0\x08\0\0\0" + bytes(600_000)]
)
def test_a_file_made_to_be_read_without_end_is_not(octets: bytes) -> None:
    file = Counting(octets)
    assert header_of_file(file) is not None
    assert file.read_bytes <= 5_000_000


def test_the_size_of_a_large_tiff_stands_in_the_crate(run: Program, tmp_path: Path) -> None:
    (tmp_path / "plan.tif").write_bytes(tiff(DATA))
    (tmp_path / "p.html").write_text("<img src=plan.tif>")
    run("pack", "p.html", "--crate", "plans", "--width", "5000..", "--unsure", "keep")
    (row,) = csv.DictReader((tmp_path / "crates/plans/crate.csv").read_text().splitlines())
    assert (row["width"], row["height"]) == ("9000", "70")


def test_types_that_are_seldom_on_the_web() -> None:
    assert read_header(big_tiff("<")) == read_header(big_tiff(">")) == Header("tiff", 70_000, 900)
    stream = b"\xff\x4f\xff\x51" + struct.pack(">HHIIII", 47, 0, 1030, 510, 10, 10)
    assert read_header(stream) == Header("j2k", 1020, 500)
    small = picture("GIF", (90, 60))
    small = small[:6] + struct.pack("<HH", 10, 80) + small[10:]  # a screen that is less wide than its first frame
    assert read_header(small) == Header("gif", 90, 80)
    for octets in (big_tiff("<"), stream, small[:800]):
        for end in range(4, len(octets)):
            read_header(octets[:end])


def test_a_size_behind_large_metadata_is_found(run: Program, web: Server) -> None:
    octets = picture("JPEG", (300, 200), icc_profile=bytes(200_000))
    (web.www / "profile.jpg").write_bytes(octets)
    (web.www / "p.html").write_text("<img src=profile.jpg>")
    (row,) = run("look", f"{web.address}/p.html", "--width", "1..", "--no-robots", "--format", "jsonl").rows
    assert (row["width"], row["grades"]["width"]) == (300, "probed")
    assert web.requests().count("/profile.jpg") == 2
