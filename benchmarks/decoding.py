"""Time ``audit`` and ``sheet`` of a crate against bare decoding of its pictures in one thread.

    python benchmarks/decoding.py [--audited 10000] [--shown 5000] [--runs 3]

The floor is Pillow, which opens every picture and decodes it. Needs nginx.
"""

import argparse
import os
import shutil
import subprocess
import sys
import tempfile
from io import BytesIO
from pathlib import Path

from PIL import Image, ImageFilter

from throughput import PORT, served, timed

_BARE = """
import sys
from pathlib import Path
from PIL import Image
for path in sorted(Path(sys.argv[1]).glob("*.jpg"))[:int(sys.argv[2])]:
    with Image.open(path) as picture:
        picture.load()
"""
_KINDS = 200
"""Pictures that differ in more than their last bytes."""


def photograph(number: int, size: tuple[int, int] = (960, 640)) -> bytes:
    """Return a JPEG with the grain and the edges of a photograph, another for each number."""
    noise = Image.effect_noise(size, 60).filter(ImageFilter.GaussianBlur(1.2))
    sky = Image.linear_gradient("L").resize(size).rotate(number % 360)
    buffer = BytesIO()
    Image.merge("RGB", (noise, sky, Image.blend(noise, sky, 0.5))).save(buffer, "JPEG", quality=82)
    return buffer.getvalue()


def main() -> None:
    """Make the crate, then run each in turn and print the best of the runs and their ratios."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--audited", type=int, default=10_000)
    parser.add_argument("--shown", type=int, default=5_000)
    parser.add_argument("--runs", type=int, default=3)
    args = parser.parse_args()
    root = Path(tempfile.mkdtemp(prefix="decoding-"))
    root.chmod(0o755)
    (root / "www").mkdir()
    os.environ["XDG_CACHE_HOME"] = str(root / "cache")
    kinds = [photograph(number) for number in range(_KINDS)]
    program = [sys.executable, "-m", "pickcrate"]
    with served(root):
        for number in range(max(args.audited, args.shown)):
            octets = kinds[number % _KINDS] + number.to_bytes(4, "big")
            (root / "www" / f"{number:05}.jpg").write_bytes(octets)
        for name, count in (("audited", args.audited), ("shown", args.shown)):
            addresses = root / f"{name}.txt"
            addresses.write_text("\n".join(f"http://127.0.0.1:{PORT}/{n:05}.jpg" for n in range(count)))
            pack = [*program, "pack", str(addresses), "--crate", name, "--into", str(root), "--no-robots", "--quiet"]
            subprocess.run(pack, check=True)
        audit = [*program, "audit", str(root / "audited")]
        sheet = [*program, "sheet", str(root / "shown"), "--out", str(root / "sheet.html")]
        for name, count, command in (("audited", args.audited, audit), ("shown", args.shown, sheet)):
            bare = [sys.executable, "-c", _BARE, str(root / name), str(count)]
            floors, ours = [], []
            for _ in range(args.runs):
                floors.append(timed(bare, root / "out").wall)
                ours.append(timed(command, root / "out").wall)
            floor, own = min(floors), min(ours)
            print(
                f"{command[3]} of {count:,}: {own:.1f} s, {count / own:.0f} pictures a second; bare decoding "
                f"{floor:.1f} s, {count / floor:.0f} a second: {own / floor:.2f} times as long"
            )
    shutil.rmtree(root, ignore_errors=True)


if __name__ == "__main__":
    main()
