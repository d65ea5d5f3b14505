"""One writer at a time: a lock that the system lets go of when its process ends, however it ended."""

import errno
import os
import socket
import sys
import time
from datetime import datetime
from pathlib import Path

if sys.platform == "win32":
    import msvcrt
else:
    import fcntl

_NO_LOCKS_HERE = frozenset((errno.ENOLCK, errno.ENOTSUP, errno.EOPNOTSUPP, errno.ENOSYS, errno.EINVAL))
_FAR = 1 << 30
"""Where Windows locks a byte: what is written in the file stays readable."""


class Lock:
    """The lock of one crate, which says who holds it. It is held until ``release``."""

    def __init__(self, path: Path) -> None:
        """Take the lock; BlockingIOError if another has it, OSError if it cannot be had."""
        self._descriptor = os.open(path, os.O_RDWR | os.O_CREAT | _careful(), 0o666)
        try:
            _take(self._descriptor)
        except OSError:
            os.close(self._descriptor)
            raise

    def sign(self) -> None:
        """Write down who holds it, for those who come by."""
        os.ftruncate(self._descriptor, 0)
        os.lseek(self._descriptor, 0, os.SEEK_SET)
        os.write(self._descriptor, f"{os.getpid()} {socket.gethostname()} {time.time():.0f}\n".encode())

    def release(self) -> None:
        """Let go of it. The file stays: another may be waiting for that very one."""
        os.ftruncate(self._descriptor, 0)
        os.close(self._descriptor)


def is_held(path: Path) -> bool:
    """Tell whether somebody holds the lock at ``path``; nothing is written for that."""
    try:
        descriptor = os.open(path, os.O_RDONLY | _careful())
    except OSError:
        return False
    try:
        _take(descriptor)
    except OSError as error:
        return error.errno not in _NO_LOCKS_HERE
    finally:
        os.close(descriptor)
    return False


def holder(path: Path) -> str:
    """Return who holds a lock, as its run has written down; empty if it has not."""
    try:
        number, host, since = path.read_text(encoding="utf-8", errors="replace")[:300].split()
        clock = datetime.fromtimestamp(int(since[:12])).astimezone().strftime("%H:%M")
    except (OSError, ValueError, OverflowError):
        return ""
    return f": process {number} on {host}, since {clock}"


if sys.platform == "win32":

    def _take(descriptor: int) -> None:
        """Lock without waiting; BlockingIOError if another has it."""
        os.lseek(descriptor, _FAR, os.SEEK_SET)
        try:
            msvcrt.locking(descriptor, msvcrt.LK_NBLCK, 1)
        except OSError as error:
            raise BlockingIOError(*error.args) from error

else:

    def _take(descriptor: int) -> None:
        """Lock without waiting; BlockingIOError if another has it. Not every file system knows locks."""
        try:
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            if error.errno not in _NO_LOCKS_HERE:
                raise


def _careful() -> int:
    """Return the flags under which no link is followed."""
    return getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_CLOEXEC", 0)
