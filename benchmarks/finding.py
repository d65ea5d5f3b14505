"""Time finding against bare parsing on the same pages in one run, and its growth from 10 kB to 100 MB.

    python benchmarks/finding.py FOLDER [--largest-mb 100]

FOLDER holds .html files, looked for in its sub-folders too; without any the growth alone is measured. The floor is
``selectolax`` building its tree from decoded text. "Finding" is all the pure steps: decode, parse, find, group.
"""

import argparse
import itertools
import resource
import sys
import time
from pathlib import Path

from selectolax.lexbor import LexborHTMLParser

from pickcrate.finders import find
from pickcrate.group import group
from pickcrate.read.pages.decode import decode
from pickcrate.read.pages.document import read_document

BLOCK = """<section class="room"><h2>Room {n}</h2><p>Kites of the {n}th room, and the people who flew them.</p>
<figure><a href="kite-{n}.html"><img class="thumb" src="thumbs/kite-{n}.jpg" alt="Kite {n}" width="240" height="160"
srcset="thumbs/kite-{n}.jpg 1x, large/kite-{n}.jpg 2x" data-caption="Kite {n}"></a>
<figcaption>Kite {n}</figcaption></figure>
<ul class="facts"><li>Maker: <b>Ysolde Marrow</b></li><li>Year: 19{n:02}</li><li><a href="/rooms/{n}">more</a></li></ul>
</section>
"""


def bare(octets: bytes) -> float:
    """Return the seconds that parsing takes."""
    text = decode(octets).text
    started = time.perf_counter()
    tree = LexborHTMLParser(text)
    seconds = time.perf_counter() - started
    del tree
    return seconds


def finding(octets: bytes) -> tuple[float, int]:
    """Return the seconds that all pure steps take, and how many images they find."""
    started = time.perf_counter()
    page = read_document(octets, source="", address="https://kites.example/")
    images = group(find(page).references, source="")
    return time.perf_counter() - started, len(images)


def main() -> None:
    """Print both tables."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--largest-mb", type=float, default=100)
    args = parser.parse_args()
    pages = [path.read_bytes() for path in sorted(args.folder.rglob("*.htm*")) if path.is_file()]
    if pages:
        megabytes = sum(map(len, pages)) / 1e6
        parsed = min(sum(map(bare, pages)) for _ in range(3))
        found = min(sum(finding(octets)[0] for octets in pages) for _ in range(3))
        images = sum(finding(octets)[1] for octets in pages)
        print(f"{len(pages)} pages, {megabytes:.1f} MB, {images} images")
        print(
            f"parse {parsed:.3f} s ({megabytes / parsed:.1f} MB/s), find {found:.3f} s ({megabytes / found:.1f} MB/s)"
        )
        print(f"ratio {found / parsed:.2f}")
    size = 0.01
    while size <= args.largest_mb:
        blocks = (BLOCK.format(n=n) for n in itertools.count())
        octets = "".join(itertools.islice(blocks, max(1, int(size * 1e6 / (len(BLOCK) + 10))))).encode()
        parsed = bare(octets)
        found, images = finding(octets)
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        megabytes = len(octets) / 1e6
        print(
            f"{megabytes:8.2f} MB: parse {parsed:7.3f} s, find {found:7.3f} s ({found / megabytes * 1000:6.1f} ms/MB), "
            f"ratio {found / parsed:.2f}, {images} images, peak {peak:.0f} MB ({peak / max(megabytes, 1):.0f} a MB)"
        )
        size *= 10
    sys.stdout.flush()


if __name__ == "__main__":
    main()
