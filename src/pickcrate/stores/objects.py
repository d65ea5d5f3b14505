"""Object stores: S3 and the like, Google's, Azure's. Keys and endpoints come from their usual environment variables."""

import os
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from datetime import timedelta
from pathlib import Path
from random import uniform
from typing import Any, TypeVar

from pickcrate.errors import UsageError
from pickcrate.stores.store import PIECE, check_name, check_size, refused

T = TypeVar("T")

_TRIES = 4
_PATIENCE = timedelta(seconds=60)
"""for the library's own tries, which are of what it knows to be passing"""
_FIRST_WAIT, _LONGEST_WAIT = 0.5, 20.0
_HINT = (
    "check its address, its keys and its endpoint, which come from the environment: AWS_ACCESS_KEY_ID,"
    " AWS_SECRET_ACCESS_KEY, AWS_ENDPOINT_URL, or what GOOGLE_ and AZURE_ stand for"
)


def client_options() -> Any:
    """Return how object stores are spoken to: without TLS only where the user's own endpoint is."""
    endpoints = (os.environ.get(name, "") for name in ("AWS_ENDPOINT_URL", "AWS_ENDPOINT"))
    return {"allow_http": True} if any(one.startswith("http://") for one in endpoints) else {}


class ObjectStore:
    """A bucket, or a part of one, by its address. What fails and may pass is tried again, with growing waits."""

    def __init__(self, address: str) -> None:
        """Open the store. Raises UsageError without the library, StoreError for an address that cannot be one."""
        try:
            import obstore  # noqa: PLC0415 (only object stores need it)
            from obstore import exceptions  # noqa: PLC0415
            from obstore.store import from_url  # noqa: PLC0415
        except ModuleNotFoundError:
            raise UsageError("object stores need obstore", hint="pip install 'pickcrate[haul]'") from None
        self.address = address.rstrip("/")
        self._library: Any = obstore
        self._errors: Any = exceptions
        try:
            self._store: Any = from_url(
                self.address,
                client_options=client_options(),
                retry_config={"retry_timeout": _PATIENCE},
            )
        except (exceptions.BaseError, ValueError) as error:
            raise refused(self.address, "", error, _HINT) from error

    def put(self, name: str, path: Path) -> None:
        """Put a file whose name holds its hash; in parts where it is large."""
        if self._size(name) != path.stat().st_size:
            self.replace(name, path)

    def create(self, name: str, octets: bytes) -> bool:
        """Write a small file unless one of that name is there; return whether that was done."""
        tries = 0

        def created() -> bool:
            nonlocal tries
            tries += 1
            try:
                self._library.put(self._store, name, octets, mode="create")
            except self._errors.AlreadyExistsError:
                # The answer to an earlier try may have been lost, and the file be ours.
                return tries > 1 and self.read(name) == octets
            return True

        return self._patiently(name, created)

    def replace(self, name: str, path: Path) -> None:
        """Put a file in the place of the one of that name."""
        self._patiently(name, lambda: self._library.put(self._store, name, path))

    def read(self, name: str) -> bytes | None:
        """Return a small file; None if there is none."""

        def read() -> bytes | None:
            try:
                found = self._library.get(self._store, name)
                check_size(self.address, name, int(found.meta["size"]))
                return bytes(found.bytes())
            except (self._errors.NotFoundError, FileNotFoundError):
                return None

        return self._patiently(name, read)

    def pieces(self, name: str) -> Iterator[bytes]:
        """Yield a file in pieces of about a megabyte."""
        try:
            yield from map(bytes, self._library.get(self._store, name).stream(min_chunk_size=PIECE))
        except (self._errors.BaseError, OSError, ValueError) as error:
            raise refused(self.address, name, error, _HINT) from error

    def part(self, name: str, start: int, length: int) -> bytes:
        """Return so many bytes of a file from a place on."""
        if not length:
            return b""
        ranged = self._library.get_range
        return self._patiently(name, lambda: bytes(ranged(self._store, name, start=start, length=length)))

    def names(self, folder: str) -> Iterator[tuple[str, int]]:
        """Yield the names of the files in a folder with their sizes."""
        try:
            for some in self._library.list(self._store, prefix=folder):
                yield from ((str(one["path"]), int(one["size"])) for one in some)
        except (self._errors.BaseError, OSError, ValueError) as error:
            raise refused(self.address, folder, error, _HINT) from error

    def delete(self, name: str) -> None:
        """Take a file away."""

        def delete() -> None:
            with suppress(self._errors.NotFoundError, FileNotFoundError):
                self._library.delete(self._store, name)

        self._patiently(name, delete)

    def _size(self, name: str) -> int | None:
        def size() -> int | None:
            try:
                return int(self._library.head(self._store, name)["size"])
            except (self._errors.NotFoundError, FileNotFoundError):
                return None

        return self._patiently(name, size)

    def _patiently(self, name: str, act: Callable[[], T]) -> T:
        """Do something, again where it fails and may not the next time. Raises StoreError at the end."""
        check_name(self.address, name)
        for_good = (self._errors.PermissionDeniedError, self._errors.UnauthenticatedError, PermissionError)
        for attempt in range(_TRIES):
            try:
                return act()
            except for_good as error:
                raise refused(self.address, name, error, _HINT) from error
            except (self._errors.BaseError, OSError, ValueError) as error:
                if attempt == _TRIES - 1:
                    raise refused(self.address, name, error, _HINT) from error
                longest = min(_LONGEST_WAIT, _FIRST_WAIT * 2**attempt)
                time.sleep(uniform(longest / 2, longest))  # noqa: S311 (jitter, no secret)
        raise AssertionError
