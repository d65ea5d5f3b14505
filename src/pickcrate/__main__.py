"""``pickcrate`` and ``python -m pickcrate``."""

import os
import sys


def main() -> None:
    """Run the command line."""
    if sys.argv[1:] == ["--version"]:
        from pickcrate.version import __version__  # noqa: PLC0415

        sys.stdout.write(f"pickcrate {__version__}\n")
        return
    # Typer brings pydantic, which searches every installed package for plug-ins: a quarter of our start-up.
    os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
    from pickcrate.cli.app import run  # noqa: PLC0415 (after the line above)

    run()


if __name__ == "__main__":
    main()
