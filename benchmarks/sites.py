"""Time ``pack`` of pictures of many sites, one of which is slow, against what that one takes alone.

    python benchmarks/sites.py [--sites 50] [--each 20] [--delay 0.2]

The slow site answers each request after ``delay`` seconds, over as many connections as it is given (4): nothing can be
faster than it alone. Lists are tried in turn with the sites mixed, and with the slow one first. Needs nginx.
"""

import argparse
import os
import sys
import tempfile
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

from throughput import PORT, make_pictures, served, timed

SLOW = PORT + 1


def serve_slowly(picture: bytes, delay: float) -> ThreadingHTTPServer:
    """Serve ``picture`` at every address, each time after ``delay`` seconds."""

    class Handler(BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.1"

        def do_GET(self) -> None:
            """Answer late."""
            time.sleep(delay)
            body = picture + self.path.encode()
            self.send_response(200)
            self.send_header("Content-Type", "image/jpeg")
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, *_: object) -> None:
            """Say nothing."""

    server = ThreadingHTTPServer(("127.0.0.1", SLOW), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    return server


def main() -> None:
    """Print a line a list."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--sites", type=int, default=50)
    parser.add_argument("--each", type=int, default=20)
    parser.add_argument("--delay", type=float, default=0.2)
    args = parser.parse_args()
    root = Path(tempfile.mkdtemp(prefix="sites-"))
    root.chmod(0o755)
    count = (args.sites - 1) * args.each
    make_pictures(root / "www", count, 20_000)
    os.environ["XDG_CACHE_HOME"] = str(root / "cache")
    slow = [f"http://127.0.0.1:{SLOW}/late-{n}.jpg" for n in range(args.each)]
    quick = [f"http://127.0.0.{2 + n % (args.sites - 1)}:{PORT}/{n:07d}.jpg" for n in range(count)]
    step = max(1, count // args.each)
    mixed = [url for n, late in enumerate(slow) for url in (late, *quick[n * step : (n + 1) * step])]
    server = serve_slowly((root / "www" / "0000000.jpg").read_bytes(), args.delay)
    walls = {}
    with served(root, sites=args.sites):
        alone = {"the slow site alone": slow, "the others alone": quick}
        for name, urls in {**alone, "mixed": mixed, "slow first": [*slow, *quick]}.items():
            addresses = root / "addresses.txt"
            addresses.write_text("\n".join(urls))
            into = root / name.replace(" ", "-")
            pack = [sys.executable, "-m", "pickcrate", "pack", str(addresses), "--crate", "c", "--into", str(into)]
            walls[name] = timed([*pack, "--no-robots", "--at-once", "16"], root / "out").wall
            held = len(list((into / "c").glob("*.jpg")))
            print(f"{name}: {walls[name]:.2f} s, {held:,} of {len(urls):,} pictures")
    longest = max(walls[name] for name in alone)
    mixed_up, slow_first = walls["mixed"] / longest, walls["slow first"] / longest
    print(f"mixed takes {mixed_up:.2f} times the longer of the two alone, slow first {slow_first:.2f}")
    server.shutdown()


if __name__ == "__main__":
    main()
