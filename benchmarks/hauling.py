"""Time a haul of a list over fifty sites on loopback against one plain ``pack`` of it; and the splitter of long lists.

    python benchmarks/hauling.py [--pictures 20000] [--size 20000] [--load 2000] [--to STORE]
    python benchmarks/hauling.py --rows 100000000 [--sites 200000]

The first prints wall and processor time of one pack, one worker and two, and what comes to each load beside its
packing. The second makes a list in Parquet and splits it: time, peak memory, rows of the largest load. Needs nginx.
"""

import argparse
import os
import resource
import shutil
import sys
import tempfile
import time
from pathlib import Path

import pyarrow as pa  # type: ignore[import-untyped]
import pyarrow.parquet as pq  # type: ignore[import-untyped]

from pickcrate.haul.splitting import Splitter
from pickcrate.stores.hauled import hauled_at
from throughput import PORT, Run, make_pictures, served, timed

SITES = 50
ROWS_AT_A_TIME = 200_000


def main() -> None:
    """Run what was asked for."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--pictures", type=int, default=20_000)
    parser.add_argument("--size", type=int, default=20_000)
    parser.add_argument("--load", type=int, default=2_000)
    parser.add_argument("--to", default="")
    parser.add_argument("--rows", type=int, default=0)
    parser.add_argument("--sites", type=int, default=200_000)
    args = parser.parse_args()
    if args.rows:
        split(args.rows, args.sites)
    else:
        haul(args.pictures, args.size, args.load, args.to)


def haul(pictures: int, size: int, load: int, to: str) -> None:
    """Pack and haul the same list, and print what each took."""
    root = Path(tempfile.mkdtemp(prefix="hauling-"))
    root.chmod(0o755)
    names = [url.rpartition("/")[2] for url in make_pictures(root / "www", pictures, size)]
    listed = root / "list.txt"
    listed.write_text("\n".join(f"http://127.0.0.{1 + n % SITES}:{PORT}/{name}" for n, name in enumerate(names)))
    (root / "one.txt").write_text(f"http://127.0.0.1:{PORT}/{names[0]}\n")
    os.environ["XDG_CACHE_HOME"] = str(root / "cache")
    program = [sys.executable, "-m", "pickcrate"]
    with served(root, sites=SITES):
        plain = timed([*program, "pack", str(listed), "--crate", "c", "--into", str(root / "crates")], root / "out")
        told("pack", plain, plain, pictures)
        start = timed(
            [*program, "haul", str(root / "one.txt"), "--to", str(root / "s"), "--workers", "1"], root / "out"
        )
        print(f"a haul of one picture: {start.wall:.2f} s, of processor time {start.cpu:.2f} s")
        for workers in (1, 2):
            store = f"{to}/{os.getpid()}-{workers}" if to else str(root / f"store{workers}")
            options = ["--to", store, "--workers", str(workers), "--load", str(load), "--scratch", str(root)]
            run = timed([*program, "haul", str(listed), *options], root / "out")
            told(f"haul, {workers} at work", run, plain, pictures)
            hauled = hauled_at(store)
            inside = sum(receipt.seconds for receipt in hauled.receipts.values()) / workers
            beside = (run.wall - start.wall - inside) / len(hauled.receipts)
            print(f"  {len(hauled.receipts)} loads; beside packing and publishing {1000 * beside:.0f} ms a load")


def told(what: str, run: Run, plain: Run, pictures: int) -> None:
    """Print one run, as a share of the plain pack's speed too."""
    speed = f"{pictures / run.wall:.0f} pictures a second, {plain.wall / run.wall:.2f} of pack's speed"
    print(f"{what}: {run.wall:.1f} s, of processor time {run.cpu:.1f} s ({run.cpu / plain.cpu:.2f} × pack's); {speed}")


def split(rows: int, sites: int) -> None:
    """Split a list of made-up addresses, of which a few sites have most and many have few."""
    import numpy as np  # noqa: PLC0415 (the other benchmark has no need of it)

    root = Path(tempfile.mkdtemp(prefix="splitting-"))
    chance = np.random.default_rng(1)
    schema = pa.schema([("url", pa.string()), ("caption", pa.string()), ("id", pa.int64())])
    with pq.ParquetWriter(root / "list.parquet", schema, compression="zstd") as writer:
        for start in range(0, rows, ROWS_AT_A_TIME):
            numbers = range(start, min(rows, start + ROWS_AT_A_TIME))
            of = np.minimum(chance.zipf(1.3, len(numbers)), sites).tolist()
            urls = [
                f"https://site{site}.kites.example/{n // 1000}/kite-{n}.jpg"
                for site, n in zip(of, numbers, strict=True)
            ]
            writer.write_table(pa.table([urls, [f"a kite, number {n}" for n in numbers], [*numbers]], schema=schema))
    loads = root / "loads"
    loads.mkdir()
    started = time.perf_counter()
    splitter = Splitter((str(root / "list.parquet"),), {}, 10_000)

    def put(load: int, octets: bytes) -> None:
        (loads / str(load)).write_bytes(octets)

    for _ in splitter.run(root, put):
        pass
    seconds, peak = time.perf_counter() - started, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    found = splitter.split
    print(
        f"{found.rows:,} rows in {found.loads:,} loads, {len(found.chains)} sites over several;"
        f" largest {found.largest:,}; {seconds:.1f} s, {1e6 * seconds / found.rows:.1f} µs a row, peak {peak:.0f} MB"
    )
    shutil.rmtree(root)


if __name__ == "__main__":
    main()
