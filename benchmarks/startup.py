"""Time what a command takes before it does anything, against ``python -c "import typer"``.

    python benchmarks/startup.py [--runs 20]

Measured are ``--version``, ``--help`` of ``look``, and ``look`` of a page of 1 kB on the disk. Run in turn; the best of
the runs counts.
"""

import argparse
import os
import sys
import tempfile
from pathlib import Path

from throughput import timed

PAGE = "<title>Kites</title><h1>Kites</h1><img src=red-delta.jpg alt='Red delta' width=800 height=600>"


def main() -> None:
    """Print a line a command, with its ratio to the floor."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--runs", type=int, default=20)
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        os.environ["XDG_CACHE_HOME"] = str(root / "cache")
        page = root / "kites.html"
        page.write_text(PAGE + "<p>" + "The museum keeps kites. " * 37)
        program = [sys.executable, "-m", "pickcrate"]
        commands = {
            "import typer": [sys.executable, "-c", "import typer"],
            "--version": [*program, "--version"],
            "look --help": [*program, "look", "--help"],
            "look of 1 kB": [*program, "look", str(page), "--as-shown"],
            "look of 1 kB, full size": [*program, "look", str(page)],
        }
        best: dict[str, float] = {}
        for _ in range(args.runs):
            for name, command in commands.items():
                wall = timed(command, root / "out").wall
                best[name] = min(wall, best.get(name, wall))
    for name, wall in best.items():
        print(f"{name:24} {wall:.3f} s, {wall / best['import typer']:.2f} times the floor")


if __name__ == "__main__":
    main()
