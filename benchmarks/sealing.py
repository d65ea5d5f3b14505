"""What sealing a crate and checking the package cost, over copying and hashing the same files bare.

python benchmarks/sealing.py [--pictures 10000] [--size 20000]
"""

import argparse
import hashlib
import os
import resource
import shutil
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

from msgspec.structs import replace

from pickcrate.crate.entry import State
from pickcrate.crate.ledger import Ledger
from pickcrate.crate.places import Places
from pickcrate.sealing.contents import SealKind, statement
from pickcrate.sealing.packages import check, seal


def crate_of(root: Path, pictures: int, size: int) -> Places:
    """Return a crate of so many files of so many bytes."""
    places = Places(root)
    places.inner.mkdir(parents=True)
    ledger = Ledger(places)
    for number in range(pictures):
        octets = os.urandom(size)
        url = f"https://kites.example/{number}.jpg"
        known = ledger.reserve(url, f"kite {number}")
        assert known is not None
        (root / f"{known.name}.jpg").write_bytes(octets)
        held = replace(known, state=State.HELD, file=f"{known.name}.jpg", url=url, type="jpeg", bytes=size)
        ledger.write(replace(held, sha256=hashlib.sha256(octets).hexdigest(), page="https://kites.example/"))
    ledger.close()
    return places


def bare(root: Path, target: Path) -> float:
    """Return the seconds that copying all files and hashing them twice takes."""
    started = time.perf_counter()
    target.mkdir()
    for path in root.glob("*.jpg"):
        octets = path.read_bytes()
        hashlib.sha256(octets)
        hashlib.sha512(octets)
        shutil.copyfile(path, target / path.name)
    return time.perf_counter() - started


def main() -> None:
    """Seal and check a crate in each of the standards."""
    options = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    options.add_argument("--pictures", type=int, default=10_000)
    options.add_argument("--size", type=int, default=20_000)
    wanted = options.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        places = crate_of(Path(folder, "kites"), wanted.pictures, wanted.size)
        floor = bare(places.root, Path(folder, "bare"))
        print(f"bare copies and hashes of {wanted.pictures:,} files: {floor:.2f} s")
        today = datetime.now(UTC).date()
        for kind in SealKind:
            target = Path(folder, kind.value)
            started = time.perf_counter()
            seal(
                places, (kind,), target, lambda held: statement(places, held, description="", publisher="", today=today)
            )
            sealed = time.perf_counter() - started
            started = time.perf_counter()
            assert not check(target).findings
            checked = time.perf_counter() - started
            peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000
            print(
                f"{kind.value:9} sealed in {sealed:.2f} s ({sealed / floor:.1f} times), "
                f"checked in {checked:.2f} s ({checked / floor:.1f} times), peak {peak:.0f} MB"
            )


if __name__ == "__main__":
    main()
