"""What a store must do, whichever it is: hold files by name, each whole or not at all."""

from collections.abc import Iterator
from pathlib import Path
from typing import Protocol

from pickcrate.addresses.url import without_userinfo
from pickcrate.errors import StoreError

PIECE = 1 << 20
LARGEST_READ = 1_000_000_000
"""Bytes of a file that is read whole: papers, lists, rows of a load."""

HALF = ".half-"
"""how the name of a file begins that is still being written"""


class Store(Protocol):
    """Files by name, with ``/`` between the steps of one. All raise StoreError for what a store refuses."""

    address: str

    def put(self, name: str, path: Path) -> None:
        """Put a file whose name holds its hash: if one of that name is there, it is that file already.

        What was at ``path`` may be gone afterwards.
        """

    def create(self, name: str, octets: bytes) -> bool:
        """Write a small file; return whether that was done. If one of that name is there it stays, and this is not."""

    def replace(self, name: str, path: Path) -> None:
        """Put a file in the place of the one of that name. What was at ``path`` may be gone afterwards."""

    def read(self, name: str) -> bytes | None:
        """Return a file of up to LARGEST_READ bytes; None if there is none."""

    def pieces(self, name: str) -> Iterator[bytes]:
        """Yield a file in pieces of about a megabyte."""

    def part(self, name: str, start: int, length: int) -> bytes:
        """Return so many bytes of a file from a place on."""

    def names(self, folder: str) -> Iterator[tuple[str, int]]:
        """Yield the names of the files in a folder, and those in it, with their sizes in bytes; in no order."""

    def delete(self, name: str) -> None:
        """Take a file away; that there is none is no error."""


def check_name(address: str, name: str) -> None:
    """Raise StoreError for what names nothing in a store: its papers may come from a stranger."""
    if not name or {"", ".", ".."} & set(name.split("/")) or "\\" in name or "\0" in name:
        raise StoreError(
            f"{without_userinfo(address)}: {name!r} is no name of a file in it", hint="the store was altered"
        )


def check_size(address: str, name: str, size: int) -> None:
    """Raise StoreError for a file that is too large to be read whole."""
    if size > LARGEST_READ:
        words = f"{without_userinfo(address)}/{name} has {size:,} bytes"
        raise StoreError(words, hint="no haul writes such a file: the store was altered")


_HINT = "check its address, and that there is room and leave to write there; what is in it stays as it is"


def refused(address: str, name: str, error: BaseException, hint: str = _HINT) -> StoreError:
    """Return what to tell a person whose store refuses something."""
    reason = (getattr(error, "strerror", None) or str(error)).strip().partition("\n")[0][:300]
    where = f"{without_userinfo(address)}/{name}" if name else without_userinfo(address)
    return StoreError(f"{where}: {without_userinfo(reason)}", hint=hint)
