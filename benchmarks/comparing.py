"""What comparing two crates costs as they grow, over reading their two ledgers bare.

python benchmarks/comparing.py [--pictures 100000]
"""

import argparse
import resource
import sqlite3
import tempfile
import time
from contextlib import closing
from hashlib import sha256
from pathlib import Path

from msgspec.structs import replace

from pickcrate.comparison import compare
from pickcrate.crate.entry import State
from pickcrate.crate.ledger import Ledger
from pickcrate.crate.places import Places
from pickcrate.run.comparing import of_crate


def crate_of(root: Path, pictures: int, *, shifted: int) -> Path:
    """Return a crate of so many pictures: some gone, some new, some changed, some moved."""
    places = Places(root)
    places.inner.mkdir(parents=True)
    ledger = Ledger(places)
    for number in range(shifted, pictures + shifted):
        is_moved, is_changed = shifted and number % 10 == 3, shifted and number % 10 == 7
        url = f"https://kites.example/{'new' if is_moved else 'hall'}/{number}.jpg"
        content = sha256(f"{number} {'changed' if is_changed else ''}".encode()).hexdigest()
        known = ledger.reserve(url, f"kite {number}")
        assert known is not None
        file, page = f"{known.name}.jpg", "https://kites.example/hall.html"
        held = replace(known, state=State.HELD, file=file, url=url, sha256=content, shown_url=f"{url}?s", page=page)
        ledger.write(replace(held, bytes=20_000, type="jpeg", width=800, height=600))
    ledger.close()
    return root


def bare(root: Path) -> float:
    """Return the seconds that reading a ledger's columns takes."""
    started = time.perf_counter()
    with closing(sqlite3.connect(Places(root).ledger)) as database:
        for _ in database.execute("SELECT url, address, shown_url, page, file, sha256, width, height FROM picture"):
            pass
    return time.perf_counter() - started


def main() -> None:
    """Compare crates of n, 2n and 4n pictures, 4n as many as was asked for."""
    options = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    options.add_argument("--pictures", type=int, default=100_000)
    most = options.parse_args().pictures
    with tempfile.TemporaryDirectory() as folder:
        for pictures in (most // 4, most // 2, most):
            old = crate_of(Path(folder, f"old {pictures}"), pictures, shifted=0)
            new = crate_of(Path(folder, f"new {pictures}"), pictures, shifted=pictures // 20)
            floor = bare(old) + bare(new)
            started = time.perf_counter()
            found = compare(of_crate(old), of_crate(new))
            seconds = time.perf_counter() - started
            megabytes = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000
            print(
                f"{pictures:,} pictures: {seconds:.2f} s, {seconds / floor:.1f} times the bare reading, "
                f"peak {megabytes:.0f} MB; {len(found.differences):,} differences, {found.same:,} the same"
            )


if __name__ == "__main__":
    main()
