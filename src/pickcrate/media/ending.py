"""Whether a file ends as its format ends: the cheap test that a transfer was not cut short."""


def shows_something(kind: str, octets_at_start: bytes, size: int) -> bool:
    """Tell whether a picture that has no end can still be decoded to something: whether data of its pixels is there.

    ``octets_at_start`` are its first bytes (256 kB, or the whole of a smaller file). An SVG without an end is no XML.
    """
    match kind:
        case "jpeg":  # ITU-T T.81, B.2.3: SOS
            return 0 < octets_at_start.find(b"\xff\xda") < size - 16
        case "png":  # PNG, 11.2.3: IDAT
            return 0 < octets_at_start.find(b"IDAT") < size - 16
        case "gif":  # GIF89a, section 20: the image descriptor
            return 0 < octets_at_start.find(b",", 13) < size - 16
        case "webp":
            return size > 64
        case _:
            return False


def ends_whole(kind: str, octets_at_end: bytes, size: int, octets_at_start: bytes) -> bool:
    """Tell whether a picture of type ``kind`` is there to its end.

    ``octets_at_end`` are the last bytes (64 kB, or the whole of a smaller file), ``size`` is the file's length in
    bytes. Types whose end cannot be told from bytes are taken as whole. Trailing bytes after the end are common
    in the wild and no reason to refuse: only a missing end is.
    """
    match kind:
        case "jpeg":  # ITU-T T.81, B.2.1: EOI
            return octets_at_end.rfind(b"\xff\xd9") >= 0
        case "png":  # PNG, 11.2.5: IEND
            return octets_at_end.rfind(b"IEND") >= 0
        case "gif":  # GIF89a, section 27: trailer
            return octets_at_end.rstrip(b"\0").endswith(b";") or b"\0;" in octets_at_end
        case "webp":  # RFC 9649, section 2.4: the RIFF size counts all but the first eight bytes
            return size >= int.from_bytes(octets_at_start[4:8], "little") + 8
        case "svg":
            tail = octets_at_end.replace(b"\0", b"").rstrip()
            return b"svg>" in tail or tail.endswith(b"/>")
        case _:
            return True
