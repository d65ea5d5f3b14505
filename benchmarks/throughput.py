"""Time ``pack`` of a list of pictures from nginx on loopback against a floor: bare transfers into files.

    python benchmarks/throughput.py --floor PATH [--pictures 4000] [--size 20000] [--runs 3] [--tls]

PATH is a script that takes ``URLS DIR --handles N [--ca FILE]`` and prints JSON with ``wall_s`` and ``cpu_s``. The two
run in turn; the best of the runs of each counts. Needs nginx, with --tls openssl as well.

Where many files were deleted in the last minutes, as by a benchmark before, ext4 makes new ones up to twenty times as
slowly, since it looks at each inode that became free and passes it over: wait, or run it in memory (TMPDIR=/dev/shm).
"""

import argparse
import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from io import BytesIO
from pathlib import Path

from PIL import Image

PORT = 18861
NGINX = """
daemon off; worker_processes 1; pid {root}/nginx.pid; error_log {root}/error.log;
events {{ worker_connections 512; }}
http {{
  access_log off; sendfile on; keepalive_requests 100000; types {{ image/jpeg jpg; }}
  client_body_temp_path {root}/t; proxy_temp_path {root}/t; fastcgi_temp_path {root}/t;
  uwsgi_temp_path {root}/t; scgi_temp_path {root}/t;
  server {{ {listens} root {root}/www; }}
}}
"""


@dataclass(frozen=True)
class Run:
    """One run of one command: seconds of wall and processor time, and peak memory in MB."""

    wall: float
    cpu: float
    peak: float


def make_pictures(folder: Path, count: int, size: int) -> list[str]:
    """Write ``count`` different valid JPEGs of about ``size`` bytes; return their addresses."""
    folder.mkdir()
    quality = BytesIO()
    side = max(16, int((size * 2.6 / 1.7) ** 0.5))
    Image.frombytes("RGB", (side, side), os.urandom(side * side * 3)).save(quality, "JPEG", quality=75)
    head, tail = quality.getvalue()[:2], quality.getvalue()[2:]
    for number in range(count):
        text = f"picture {number}".encode()
        comment = b"\xff\xfe" + (len(text) + 2).to_bytes(2, "big") + text
        (folder / f"{number:07d}.jpg").write_bytes(head + comment + tail)
    print(f"{count} pictures of {len(head + comment + tail)} bytes")
    return [f"http://127.0.0.1:{PORT}/{number:07d}.jpg" for number in range(count)]


@contextmanager
def served(root: Path, *, tls: bool = False, sites: int = 1) -> Iterator[None]:
    """Serve ``root/www`` with nginx and delete ``root`` at the end; over TLS with its own certificate, ``cert.pem``.

    Sites are addresses of loopback, from 127.0.0.1 on.
    """
    secured = ""
    if tls:
        key = ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=127.0.0.1"]
        files = ["-addext", "subjectAltName=IP:127.0.0.1", "-keyout", f"{root}/key.pem", "-out", f"{root}/cert.pem"]
        subprocess.run([*key, *files], check=True, capture_output=True)
        secured = f" ssl; ssl_certificate {root}/cert.pem; ssl_certificate_key {root}/key.pem"
    listens = " ".join(f"listen 127.0.0.{1 + site}:{PORT}{secured};" for site in range(sites))
    (root / "nginx.conf").write_text(NGINX.format(root=root, listens=listens))
    nginx = subprocess.Popen(["nginx", "-c", root / "nginx.conf", "-e", root / "error.log"])
    time.sleep(0.5)
    if nginx.poll() is not None:
        sys.exit(f"nginx did not start: is port {PORT} taken? See above.")
    try:
        yield
    finally:
        nginx.terminate()
        nginx.wait()
        shutil.rmtree(root)


def timed(command: list[str], output: Path) -> Run:
    """Run ``command`` and return what it cost, from the operating system's account of the finished process.

    Modules are compiled once, as those of an installed program are.
    """
    environment = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    started = time.perf_counter()
    with output.open("wb") as sink:
        process = subprocess.Popen(command, stdout=sink, env=environment)
        _, status, used = os.wait4(process.pid, 0)
    wall = time.perf_counter() - started
    if status:
        sys.exit(f"{command[0]} ended with {os.waitstatus_to_exitcode(status)}: {output.read_text()[-2000:]}")
    return Run(wall, used.ru_utime + used.ru_stime, used.ru_maxrss / 1024)


def main() -> None:
    """Run the two in turn and print both and their ratios."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--floor", required=True, type=Path)
    parser.add_argument("--pictures", type=int, default=4000)
    parser.add_argument("--size", type=int, default=20_000)
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--tls", action="store_true")
    args = parser.parse_args()
    root = Path(tempfile.mkdtemp(prefix="throughput-"))
    root.chmod(0o755)
    addresses = root / "addresses.txt"
    urls = make_pictures(root / "www", args.pictures, args.size)
    addresses.write_text("\n".join(url.replace("http:", "https:") if args.tls else url for url in urls))
    trusted = ["--ca", str(root / "cert.pem")] if args.tls else []
    os.environ["XDG_CACHE_HOME"] = str(root / "cache")
    floors: list[Run] = []
    ours: list[Run] = []
    options = ["--at-once", "16", "--per-site", "16", "--pause", "0", "--no-robots"]
    with served(root, tls=args.tls):
        if args.tls:
            os.environ["SSL_CERT_FILE"] = str(root / "cert.pem")
        for run in range(args.runs):
            into = root / f"run{run}"
            floor = [sys.executable, str(args.floor), str(addresses), str(into / "floor"), "--handles", "16", *trusted]
            floors.append(timed(floor, root / "floor.out"))
            inner = json.loads((root / "floor.out").read_text())
            pack = [sys.executable, "-m", "pickcrate", "pack", str(addresses), "--crate", "c", "--into", str(into)]
            ours.append(timed([*pack, *options], root / "pack.out"))
            held = len(list((into / "c").glob("*.jpg")))
            print(f"run {run + 1}: floor {floors[-1]} (inside {inner['wall_s']} s), pack {ours[-1]}, {held} files")
    best_floor, best_ours = min(run.wall for run in floors), min(run.wall for run in ours)
    print(f"wall: floor {best_floor:.2f} s, pack {best_ours:.2f} s: {best_floor / best_ours:.2f} of the floor's speed")
    floor_cpu, our_cpu = min(run.cpu for run in floors), min(run.cpu for run in ours)
    print(f"cpu:  floor {floor_cpu:.2f} s, pack {our_cpu:.2f} s: {our_cpu / floor_cpu:.2f} times the floor's")
    print(f"peak memory: floor {max(run.peak for run in floors):.0f} MB, pack {max(run.peak for run in ours):.0f} MB")


if __name__ == "__main__":
    main()
