"""From an address to the store that is there."""

from pathlib import Path

from pickcrate.addresses.url import without_userinfo
from pickcrate.errors import UsageError
from pickcrate.stores.store import Store
from pickcrate.text.lazyre import lazy

_SCHEME = lazy(r"([A-Za-z][A-Za-z0-9+.\-]+)://")
OBJECT_STORES = ("s3", "gs", "az", "abfs", "abfss")
"""schemes of stores that are spoken to in their own protocols"""


def scheme(address: str) -> str:
    """Return the scheme of a store's address in lower case; empty for a path."""
    found = _SCHEME.match(address)
    return found[1].lower() if found is not None else ""


def open_store(address: str) -> Store:
    """Return the store at an address, or the folder at a path. Raises UsageError, StoreError."""
    kind = scheme(address)
    if kind in {"", "file"}:
        from pickcrate.stores.folder import FolderStore  # noqa: PLC0415 (the kind of store that there is)

        return FolderStore(Path(address.partition("://")[2] or address))
    if kind in {"http", "https"}:
        hint = "a store is a folder, or an address such as s3://kites/2026-11 or sftp://museum.example/kites"
        raise UsageError(f"{without_userinfo(address)} is a web address, and no store", hint=hint)
    if kind in OBJECT_STORES:
        from pickcrate.stores.objects import ObjectStore  # noqa: PLC0415

        return ObjectStore(address)
    from pickcrate.stores.filesystem import FilesystemStore  # noqa: PLC0415

    return FilesystemStore(address)
