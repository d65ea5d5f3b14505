"""Time a contact sheet of many pictures: making it, its size, its first paint, and the frames while it is scrolled.

    python benchmarks/sheet.py [--pictures 2000] [--chromium PATH]

Needs nginx, Chromium, and Playwright (of the extra ``dev``).
"""

import argparse
import os
import shutil
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright

from decoding import photograph
from throughput import PORT, served, timed

_SCROLL = """async () => {
  const frames = [];
  let last = performance.now();
  const end = last + 6000;
  while (performance.now() < end) {
    window.scrollBy(0, 120);
    await new Promise(requestAnimationFrame);
    const now = performance.now();
    frames.push(now - last);
    last = now;
  }
  frames.sort((a, b) => a - b);
  const at = (share) => frames[Math.floor(frames.length * share)];
  return [frames.length, at(0.5), at(0.95), frames.at(-1), scrollY];
}"""


def main() -> None:
    """Make the sheet and look at it."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--pictures", type=int, default=2000)
    parser.add_argument("--chromium", default=shutil.which("chromium"))
    args = parser.parse_args()
    root = Path(tempfile.mkdtemp(prefix="sheet-"))
    root.chmod(0o755)
    (root / "www").mkdir()
    for number in range(args.pictures):
        (root / "www" / f"{number:04}.jpg").write_bytes(photograph(number, (480, 320)))
    tags = (f'<img src="{n:04}.jpg" alt="Kite number {n} over the downs">' for n in range(args.pictures))
    (root / "www" / "kites.html").write_text(f"<title>Kites</title>{''.join(tags)}")
    os.environ["XDG_CACHE_HOME"] = str(root / "cache")
    with served(root):
        command = [sys.executable, "-m", "pickcrate", "sheet", f"http://127.0.0.1:{PORT}/kites.html"]
        run = timed([*command, "--no-robots", "--out", str(root / "sheet.html")], root / "out")
        size = (root / "sheet.html").stat().st_size
        print(f"{args.pictures:,} pictures: made in {run.wall:.1f} s, peak {run.peak:.0f} MB, file {size / 1e6:.1f} MB")
        with sync_playwright() as play:
            browser = play.chromium.launch(executable_path=args.chromium, args=["--no-sandbox"])
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto((root / "sheet.html").as_uri())
            page.wait_for_function("performance.getEntriesByName('first-contentful-paint').length > 0")
            paint = page.evaluate("performance.getEntriesByName('first-contentful-paint')[0].startTime")
            page.wait_for_function("document.querySelector('.tile img')?.naturalWidth > 0")
            ready = page.evaluate("performance.now()")
            tiles = page.evaluate("performance.now() && document.querySelectorAll('.tile').length")
            count, median, late, worst, way = page.evaluate(_SCROLL)
            browser.close()
        print(f"first contentful paint {paint / 1000:.2f} s, first preview {ready / 1000:.2f} s, {tiles:,} tiles")
        print(f"scrolled {way:,.0f} px, {count} frames: median {median:.1f} ms, 95th {late:.1f}, worst {worst:.0f}")


if __name__ == "__main__":
    main()
