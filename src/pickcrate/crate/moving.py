"""Moving a file into a place where nothing is: in one step where the system has one, else by linking."""

import ctypes
import errno
import os
import shutil
import sys
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path

_NO_HARD_LINKS = frozenset((errno.EPERM, errno.ENOTSUP, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK))
_NOT_HERE = frozenset((errno.ENOSYS, errno.EINVAL, errno.ENOTSUP, errno.EOPNOTSUPP))
_AT_FDCWD = -100
_RENAME_NOREPLACE = 1
_RENAME_EXCL = 4


def move_in(beside: str | Path, final: str | Path) -> bool:
    """Move the file at ``beside`` to ``final``; False, and nothing done, if something is there. Raises OSError."""
    rename = _exclusive_rename()
    if rename is not None:
        problem = rename(os.fsencode(beside), os.fsencode(final))
        if not problem:
            return True
        if problem == errno.EEXIST:
            return False
        if problem not in _NOT_HERE:
            raise OSError(problem, os.strerror(problem), str(final))
    linked = _link(beside, final)
    if linked:
        Path(beside).unlink()
    elif linked is None:  # FAT, exFAT: hold the place with an empty file, then replace that
        try:
            Path(final).open("xb").close()
        except FileExistsError:
            return False
        Path(beside).replace(final)
    return linked is not False


def copy_in(path: Path, copy: Path) -> bool:
    """Give a file a second name, or make a copy of it; False if something is there already. Raises OSError."""
    linked = _link(path, copy)
    if linked is None:
        try:
            with path.open("rb") as old, copy.open("xb") as new:
                shutil.copyfileobj(old, new)
        except FileExistsError:
            return False
        shutil.copystat(path, copy)
    return linked is not False


def _link(path: str | Path, other: str | Path) -> bool | None:
    """Give a file a second name; False if something is there already, None where files have one name only."""
    try:
        os.link(path, other)
    except FileExistsError:
        return False
    except OSError as error:
        if error.errno not in _NO_HARD_LINKS:
            raise
        return None
    return True


@lru_cache(maxsize=1)
def _exclusive_rename() -> Callable[[bytes, bytes], int] | None:
    """Return the system's rename that replaces nothing (renameat2 on Linux, renamex_np on macOS), if it has one.

    What it returns is an error number, 0 for none.
    """
    try:
        library = ctypes.CDLL(None, use_errno=True)
        if sys.platform == "linux":
            call, flag = library.renameat2, _RENAME_NOREPLACE
        elif sys.platform == "darwin":
            call, flag = library.renamex_np, _RENAME_EXCL
        else:
            return None
    except (AttributeError, OSError, TypeError):
        return None

    def rename(old: bytes, new: bytes) -> int:
        failed = call(_AT_FDCWD, old, _AT_FDCWD, new, flag) if sys.platform == "linux" else call(old, new, flag)
        return ctypes.get_errno() if failed else 0

    return rename
