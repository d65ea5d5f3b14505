"""The header of a whole picture in a file: what says its size may stand behind its data, or behind much else."""

import struct
from io import SEEK_END
from typing import BinaryIO

from pickcrate.media import heif, jpeg, tiff
from pickcrate.media.header import Header, read_header

_PART = 262_144
"""Bytes that are read at a time: a directory, the metadata's box, or some segments."""

_MOST_PARTS = 16

_LATER_PARTS = {"jpeg": jpeg.later_part, "tiff": tiff.later_part, "heic": heif.later_part, "avif": heif.later_part}


def header_of_file(file: BinaryIO) -> Header | None:
    """Return the header of a whole picture, or None if the file is no picture that we know; moves in the file.

    Of a large file only the parts are read that may say its size. Raises OSError.
    """
    octets = file.read(_PART)
    header = read_header(octets)
    if header is None or header.width is not None or len(octets) < _PART:
        return header
    return _further(file, header, octets) or header


def _further(file: BinaryIO, header: Header, octets: bytes) -> Header | None:
    size = file.seek(0, SEEK_END)
    start = 0
    for _ in range(_MOST_PARTS):
        try:
            later = _LATER_PARTS[header.type](octets)
        except (KeyError, struct.error):
            return None
        if later is None or start + later[0] >= size:
            return None
        at, before = start + later[0], later[1]
        file.seek(at)
        octets = before + file.read(_PART)
        start = at - len(before)
        found = read_header(octets)
        if found is None or found.width is not None:
            return found
    return None
