"""``pickcrate`` and ``python -m pickcrate``."""

import sys


def main() -> None:
    """Run the command line."""
    if sys.argv[1:] == ["--version"]:
        from pickcrate.version import __version__  # noqa: PLC0415

        sys.stdout.write(f"pickcrate {__version__}\n")
        return
    from pickcrate.cli.app import run  # noqa: PLC0415 (not for the version alone)

    run()


if __name__ == "__main__":
    main()
