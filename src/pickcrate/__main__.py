"""``pickcrate`` and ``python -m pickcrate``."""

import sys


def main() -> None:
    """Run the command line."""
    if sys.argv[1:] == ["--version"]:
        from pickcrate.version import __version__  # noqa: PLC0415

        sys.stdout.write(f"pickcrate {__version__}\n")
        return
    from pickcrate.garbage import collect_seldom  # noqa: PLC0415 (nothing for the version alone)

    collect_seldom()  # before all else: what is imported stays
    from pickcrate.cli.app import run  # noqa: PLC0415
    from pickcrate.fetch.interrupt import end_in_order  # noqa: PLC0415

    end_in_order()
    run()


if __name__ == "__main__":
    main()
