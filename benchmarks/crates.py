"""What a crate costs as it grows: its ledger at a million rows, a second run of a finished crate, a long list.

    python benchmarks/crates.py [--rows 1000000] [--finished 10000] [--listed 100000]

Needs nginx. A step whose number is 0 is left out.
"""

import argparse
import os
import shutil
import sys
import tempfile
import time
from pathlib import Path

from pickcrate.crate.ledger import Ledger
from pickcrate.crate.places import Places
from throughput import make_pictures, served, timed

_FEW = 1000
_TRIES = 2000


def ledger_of(path: Path, rows: int) -> Ledger:
    """Return a ledger with so many reserved rows."""
    places = Places(path)
    places.inner.mkdir(parents=True)
    ledger = Ledger(places)
    for number in range(rows):
        ledger.reserve(f"https://kites.example/{number}.jpg", f"kite {number}")
    ledger.commit()
    return ledger


def microseconds(ledger: Ledger, rows: int) -> tuple[float, float]:
    """Return what one lookup and one insert cost, in microseconds; the inserts are committed together."""
    started = time.perf_counter()
    for number in range(_TRIES):
        ledger.find(f"https://kites.example/{number * 7919 % rows}.jpg")
    found = time.perf_counter()
    for number in range(_TRIES):
        ledger.reserve(f"https://kites.example/new/{number}.jpg", f"new kite {number * 7919}")
    ledger.commit()
    return (found - started) / _TRIES * 1e6, (time.perf_counter() - found) / _TRIES * 1e6


def ledgers(root: Path, rows: int) -> None:
    """Print what a lookup and an insert cost in a small and in a large ledger."""
    costs = {}
    for size in (_FEW, rows):
        ledger = ledger_of(root / f"{size}", size)
        costs[size] = microseconds(ledger, size)
        ledger.close()
        print(f"ledger of {size:,} rows: lookup {costs[size][0]:.1f} µs, insert {costs[size][1]:.1f} µs")
    ratios = [large / small for small, large in zip(costs[_FEW], costs[rows], strict=True)]
    print(f"  large to small: lookup {ratios[0]:.2f} times, insert {ratios[1]:.2f} times")


def pack(addresses: Path, into: Path) -> list[str]:
    """Return the command that packs a list."""
    command = [sys.executable, "-m", "pickcrate", "pack", str(addresses), "--crate", "c", "--into", str(into)]
    return [*command, "--at-once", "16", "--per-site", "16", "--no-robots", "--quiet"]


def second_run(root: Path, pictures: int) -> None:
    """Print what the second run of a finished crate costs beyond start-up, and that it asks for nothing."""
    addresses = root / "addresses.txt"
    addresses.write_text("\n".join(make_pictures(root / "www", pictures, 2000)))
    first = timed(pack(addresses, root / "crates"), root / "out")
    shutil.rmtree(root / "www")  # whatever is asked for now fails
    (root / "www").mkdir()
    again = min(timed(pack(addresses, root / "crates"), root / "out").wall for _ in range(3))
    start = min(timed([sys.executable, "-m", "pickcrate", "pack", "--help"], root / "out").wall for _ in range(3))
    print(f"{pictures:,} pictures: {first.wall:.1f} s")
    print(f"  again, with no request: {again:.2f} s, {again - start:.2f} s beyond start-up")


def long_list(root: Path, pictures: int) -> None:
    """Print the memory that packing a long list takes, beside a tenth of it. A tenth of the addresses are pictures."""
    few = make_pictures(root / "www", max(1, pictures // 100), 2000)
    for count in (pictures // 10, pictures):
        addresses = root / f"{count}.txt"
        addresses.write_text("\n".join(f"{few[n % len(few)]}?copy={n}" for n in range(count)))
        run = timed(pack(addresses, root / f"crates{count}"), root / "out")
        print(f"list of {count:,}: {run.wall:.1f} s, peak memory {run.peak:.0f} MB")
        shutil.rmtree(root / f"crates{count}")


def main() -> None:
    """Run the steps, each in a folder of its own."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--rows", type=int, default=1_000_000)
    parser.add_argument("--finished", type=int, default=10_000)
    parser.add_argument("--listed", type=int, default=100_000)
    args = parser.parse_args()
    for step, number in ((ledgers, args.rows), (second_run, args.finished), (long_list, args.listed)):
        if not number:
            continue
        root = Path(tempfile.mkdtemp(prefix="crates-"))
        root.chmod(0o755)
        os.environ["XDG_CACHE_HOME"] = str(root / "cache")
        with served(root):
            step(root, number)


if __name__ == "__main__":
    main()
