"""Count the requests of one page with 12 sheets and 3 frames, and time it against its longest chain of dependencies.

    python benchmarks/rounds.py [--delay 0.2]

Every answer takes ``delay`` seconds. The chain is page, sheet, imported sheet: three answers one after the other.
"""

import argparse
import subprocess
import sys
import threading
import time
from collections import Counter
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

SHEETS = "".join(f"<link rel=stylesheet href=/s{n}.css>" for n in range(12))
FRAMES = "".join(f"<iframe src=/f{n}.html></iframe>" for n in range(3))
asked: Counter[str] = Counter()


class Handler(BaseHTTPRequestHandler):
    """Answers everything, late."""

    protocol_version = "HTTP/1.1"
    delay = 0.0

    def do_GET(self) -> None:
        """Answer with a page, a frame, or a sheet; the first three sheets import one each."""
        asked[self.path] += 1
        time.sleep(self.delay)
        if self.path == "/":
            kind, text = "text/html", f"<title>Rounds</title>{SHEETS}{FRAMES}<p>"
        elif self.path.startswith("/f"):
            kind, text = "text/html", f"<link rel=stylesheet href=/s0.css><img src={self.path}.png>"
        elif self.path == "/robots.txt":
            kind, text = "text/plain", ""
        else:
            number = self.path[2:].partition(".")[0]
            imported = f"@import '/i{number}.css';" if self.path in {"/s0.css", "/s1.css", "/s2.css"} else ""
            kind, text = "text/css", f"{imported} p {{ background: url(/{self.path[1:]}.png) }}"
        self.send_response(200)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(text)))
        self.end_headers()
        self.wfile.write(text.encode())

    def log_message(self, *_: object) -> None:
        """Say nothing."""


class Server(ThreadingHTTPServer):
    """A server that lets more than five wait: the sixth would come back a second later."""

    request_queue_size = 128


def main() -> None:
    """Print requests and times for two numbers of connections."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--delay", type=float, default=0.2)
    Handler.delay = parser.parse_args().delay
    server = Server(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    address = f"http://127.0.0.1:{server.server_port}/"
    started = time.perf_counter()
    subprocess.run([sys.executable, "-m", "pickcrate", "look", "data:,"], capture_output=True, check=False)
    start_up = time.perf_counter() - started
    for options in ((), ("--per-site", "16", "--at-once", "16")):
        asked.clear()
        started = time.perf_counter()
        command = [sys.executable, "-m", "pickcrate", "look", address, *options, "--format", "urls"]
        done = subprocess.run(command, capture_output=True, text=True, check=True)
        seconds = time.perf_counter() - started - start_up
        again = asked.total() - len(asked)
        print(
            f"{' '.join(options) or 'as it comes'}: {len(done.stdout.split())} pictures, {asked.total()} requests "
            f"({again} twice, robots.txt {asked['/robots.txt']}), {seconds:.2f} s beyond start-up; "
            f"the chain of 3 takes {3 * Handler.delay:.2f} s: {seconds / 3 / Handler.delay:.2f} times"
        )


if __name__ == "__main__":
    main()
