"""Where standing settings are: those of the working folder, or of the next one above it, and the user's own."""

import os
import sys
from collections.abc import Iterator
from pathlib import Path

STANDING = "pickcrate.toml"
"""the settings of a folder, and of all below it"""

_IS_LINUX: bool = sys.platform == "linux"


def standing_files() -> Iterator[tuple[Path, bool]]:
    """Yield the files of standing settings that there are, the stronger first, each with whether it is the user's own.

    First that of the working folder, or the next one above it; then the user's own.
    """
    try:
        here = Path.cwd()
    except OSError:  # the working folder is gone
        here = Path("/")
    found = next((file for folder in (here, *here.parents) if (file := folder / STANDING).is_file()), None)
    if found is not None:
        yield (Path(STANDING) if found.parent == here else found), False
    own = own_settings()
    if own.is_file():
        yield own, True


def own_settings() -> Path:
    """Return where the user's own standing settings are, in the standard directory for such files."""
    if _IS_LINUX:  # as platformdirs says (XDG base directories), which loads much for it
        stated = Path(os.environ.get("XDG_CONFIG_HOME", ""))
        folder = stated if stated.is_absolute() else Path.home() / ".config"
        return folder / "pickcrate" / "settings.toml"
    import platformdirs  # noqa: PLC0415

    return platformdirs.user_config_path("pickcrate", appauthor=False) / "settings.toml"
