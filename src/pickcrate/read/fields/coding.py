"""The content codings of a recorded answer (RFC 9110, 8.4.1; br: RFC 7932; zstd: RFC 8878), undone piece by piece."""

from collections.abc import Iterator
from typing import Any

_PIECE = 1_000_000
_READ = 16_384
_LARGEST_WINDOW = 1 << 23
"""RFC 9659: no answer over HTTP needs more"""


def contents(record: Any) -> Iterator[bytes]:
    """Yield the body of a record without its codings; no piece is much larger than a megabyte."""
    headers = record.http_headers
    coding = (headers.get_header("Content-Encoding", "") if headers is not None else "").strip().lower()
    if coding not in {"br", "zstd"}:
        stream = record.content_stream()
        return iter(lambda: bytes(stream.read(_PIECE)), b"")
    raw = _unchunked(record)
    return _brotli(raw) if coding == "br" else _zstd(raw)


def _unchunked(record: Any) -> Any:
    from warcio.bufferedreaders import ChunkedDataReader  # noqa: PLC0415 (only for archives)

    is_chunked = (record.http_headers.get_header("Transfer-Encoding") or "").lower() == "chunked"
    return ChunkedDataReader(record.raw_stream) if is_chunked else record.raw_stream


def _brotli(raw: Any) -> Iterator[bytes]:
    import brotli  # noqa: PLC0415

    decoder = brotli.Decompressor()
    while not decoder.is_finished():
        more = b""
        if decoder.can_accept_more_data() and not (more := bytes(raw.read(_READ))):
            return
        if piece := decoder.process(more, output_buffer_limit=_PIECE):
            yield piece


def _zstd(raw: Any) -> Iterator[bytes]:
    import zstandard  # noqa: PLC0415

    decoder = zstandard.ZstdDecompressor(max_window_size=_LARGEST_WINDOW)
    with decoder.stream_reader(raw, read_across_frames=True, closefd=False) as stream:
        yield from iter(lambda: stream.read(_PIECE), b"")
