"""Paths as people type them, ``~`` for their own folder: shells leave it where it is in quotes, or behind ``=``."""

import os
from pathlib import Path


def without_tilde(path: str | Path) -> Path:
    """Return a path with the folder that ``~`` stands for; ``~name`` of nobody here stays (POSIX.1, 2.6.1)."""
    return Path(os.path.expanduser(path))  # noqa: PTH111 (that of Path raises for nobody's name)
