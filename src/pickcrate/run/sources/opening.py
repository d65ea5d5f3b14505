"""Opening what the user named: a web address, a file, a folder, standard input."""

import re
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import IO, BinaryIO, cast

from msgspec.structs import replace

from pickcrate.addresses.url import absolute, looks_like_web, without_userinfo
from pickcrate.errors import SourceError
from pickcrate.fetch.brought import Brought, path_of_file
from pickcrate.fetch.exchange import Failure, Fetcher, Reply, Request
from pickcrate.read.fields.contenttype import content_type
from pickcrate.read.pages.decode import with_mark
from pickcrate.read.pages.refresh import refreshes_to
from pickcrate.read.recognise import Kind
from pickcrate.run.sources.opened import (
    ALLOW_MORE,
    NOT_TRUSTED,
    OWN,
    WHAT_IS_READ,
    Expected,
    Opened,
    opened_bytes,
    opened_file,
    unreadable,
)
from pickcrate.run.survey.asking import page_request
from pickcrate.stores import HAUL
from pickcrate.text.lazyre import lazy
from pickcrate.tilde import without_tilde
from pickcrate.values.cause import Cause
from pickcrate.values.flaw import Flaw
from pickcrate.values.trust import Asker

_HINTS = {
    Cause.HOST: "check the address for typing errors, and that you are online",
    Cause.REFUSED: "check the address and its port, and that the server is up",
    Cause.CERTIFICATE: NOT_TRUSTED,
    Cause.REDIRECTS: "the page may want a cookie or a signed-in user: --browser visits it as you",
    Cause.TIMEOUT: "try again, or allow more with --timeout",
    Cause.UNFINISHED: "allow more with --timeout; look and pack take it as the server sends it",
    Cause.SIZE: ALLOW_MORE,
}
_HINTS_ON_STATUS = {
    401: "the page wants a signed-in user: --browser --profile NAME --show-browser signs in, once",
    403: "the server refuses this program: --browser visits the page in yours",
    404: "check the address for typing errors",
}
_BY_NAME = "put your name and password there into ~/.netrc, or before the host in the address"
_BY_KEY = "it may want a key: --header 'Authorization: Bearer …', or as its documentation says"
_MOST_REFRESHES = 5
_VIEWED = lazy(r"\Aview-source:(?=https?:|file:)", re.IGNORECASE)
"""before the address of a page whose source a browser shows"""


def open_source(
    source: str, fetcher: Fetcher, brought: Brought, expected: Expected, *, handed: IO[bytes] | None = None
) -> Iterator[Opened]:
    """Yield the documents that ``source`` names: one, or each page in a folder and the folders in it.

    What a program hands over is read as it is. Raises SourceError if it cannot be read.
    """
    source = _VIEWED.sub("", source) if source[:4].lower() == "view" else source
    if handed is not None:
        name = getattr(handed, "name", "")
        path = Path(name).resolve() if isinstance(name, str) and name and Path(name).is_file() else None
        yield opened_file(source, cast("BinaryIO", handed), brought, expected, path=path)
    elif looks_like_web(source):
        yield _from_web(source, fetcher, expected)
    elif source == "-":
        if sys.stdin is None:
            raise SourceError("standard input is closed", hint=WHAT_IS_READ)
        yield opened_file(source, sys.stdin.buffer, brought, expected)
    elif (path := typed_path(source)) is None or _holds_a_haul(path):
        yield _from_store(source, brought)
    else:
        yield from _from_disk(source, path, brought, expected)


def _holds_a_haul(path: Path) -> bool:
    try:
        return (path / HAUL).is_file()
    except (OSError, ValueError):  # too long for a path, or with a zero in it
        return False


def typed_path(source: str) -> Path | None:
    """Return the path of what is on the disk, as it is typed or as a browser shows it (RFC 8089); None of a store."""
    if source[:5].lower() == "file:":
        return path_of_file(source)
    return None if "://" in source else without_tilde(source)


def _from_store(source: str, brought: Brought) -> Opened:
    """Return what a haul has left in a store, as a pick list of all that is in its shards. Raises SourceError."""
    if "://" in source and source.partition("://")[0].lower().startswith("h"):  # no store's scheme does
        from pickcrate.run.sources.meant import address_meant  # noqa: PLC0415 (something is wrong)

        if address := address_meant(source):
            raise SourceError(f"{source}: not a well-formed address", hint=f"did you mean {address}?")
    from pickcrate.stores.hauled import hauled_at, picks  # noqa: PLC0415 (few sources are stores)

    rows = picks(hauled_at(source))
    return Opened(without_userinfo(source), Kind.HAUL, b"", "about:blank", brought.enter(OWN), rows=rows)


def typed_request(source: str) -> Request:
    """Return the request for a page whose address the user typed. Raises SourceError if it is none of the web."""
    address = absolute(source, "about:blank") if looks_like_web(source) else None
    if address is None:
        plain = without_userinfo(source)
        raise SourceError(f"{plain}: not a well-formed address", hint="an address looks like https://example.org/kites")
    return replace(page_request(address, Asker("", OWN), typed=True), fragment=source.partition("#")[2])


def _from_web(source: str, fetcher: Fetcher, expected: Expected) -> Opened:
    """Return what is at an address that the user typed, or where the page there leads on by itself."""
    request = typed_request(source)
    for _ in range(_MOST_REFRESHES):
        (reply,) = (answer for answer in fetcher.fetch([request]) if isinstance(answer, Reply))
        onward = refreshes_to(reply.octets, reply.url, reply.headers) if reply.failure is None else ""
        if not onward:
            break
        request = page_request(onward, Asker(reply.url, reply.trust), typed=False)
    return opened_reply(without_userinfo(source), reply, expected)


def opened_reply(plain: str, reply: Reply, expected: Expected) -> Opened:
    """Return what came for a page that a person named ``plain``; SourceError if it cannot be read."""
    if reply.failure is not None and expected.kind_of(reply.octets) is not Kind.PAGE:
        raise failed_source(plain, reply.failure, hint=_wants_to_know(reply))
    media_type, charset = content_type(reply.headers)
    octets = with_mark(reply.octets, charset)
    opened = opened_bytes(plain, octets, expected, address=reply.url, trust=reply.trust, media_type=media_type)
    flaws = (_as_far_as_it_came(reply.failure),) if reply.failure is not None else ()
    return replace(opened, fields=reply.headers, age=reply.age, loaded=reply.loaded, flaws=flaws)


def _as_far_as_it_came(failure: Failure) -> Flaw:
    """Return what is said of a page that was cut short: a browser shows what it has of it as well."""
    return Flaw("page", f"{failure.words}: its pictures are those of the part that came")


def failed_source(source: str, failure: Failure, *, hint: str = "") -> SourceError:
    """Return the error of a source that could not be had, with what to do next."""
    return SourceError(f"{without_userinfo(source)}: {failure.words}", hint=hint or _hint(failure))


def _wants_to_know(reply: Reply) -> str:
    """Return how to say who asks, to a server that says in which way it wants to know, or is one for programs.

    RFC 9110, 11.6.1; RFC 7617 (Basic), RFC 6750 (Bearer).
    """
    if reply.failure is None or reply.failure.status not in {401, 403}:
        return ""
    scheme = reply.headers.get("www-authenticate", "").partition(" ")[0].lower()
    if scheme in {"basic", "digest"}:
        return _BY_NAME
    return _BY_KEY if scheme == "bearer" or content_type(reply.headers)[0].endswith("json") else ""


def _hint(failure: Failure) -> str:
    return _HINTS_ON_STATUS.get(failure.status) or _HINTS.get(failure.cause, "")


def _from_disk(source: str, path: Path, brought: Brought, expected: Expected) -> Iterator[Opened]:
    try:
        if path.is_dir():
            from pickcrate.run.sources.folders import open_folder  # noqa: PLC0415 (few sources are folders)

            yield from open_folder(path, source, brought, expected.most)
            return
        if path.is_fifo():  # <(a command): nothing lies beside it
            with path.open("rb") as file:
                yield opened_file(source, file, brought, expected)
            return
        real = path.resolve()
        with real.open("rb") as file:
            yield opened_file(source, file, brought, expected, path=real, in_place=file.seekable())
    except FileNotFoundError:
        from pickcrate.run.sources.meant import hint_for  # noqa: PLC0415 (something is wrong)

        raise SourceError(f"{source}: no such file", hint=hint_for(source, path)) from None
    except (OSError, ValueError, RuntimeError) as error:
        raise SourceError(f"{source}: {unreadable(error)}") from error
