"""Draw every picture of the demo site, the same bytes on each run of one Pillow.

    python tools/draw_museum.py [FOLDER]

Kites are drawn four times too large and scaled down, over a sky with clouds from a seeded generator. Nothing here
comes from elsewhere: shapes are polygons, the museum does not exist.
"""

import math
import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

SITE = Path(__file__).parent.parent / "src" / "pickcrate" / "demo" / "site"
Point = tuple[float, float]
Colour = tuple[int, int, int]

RED, ORANGE, YELLOW = (206, 44, 46), (236, 126, 36), (246, 202, 60)
GREEN, TEAL, BLUE = (58, 148, 76), (24, 150, 156), (38, 84, 178)
VIOLET, PINK, INK, CREAM = (118, 66, 156), (226, 98, 146), (38, 40, 52), (250, 244, 226)


class Kite:
    """A canvas in units of the picture's shorter side, with the kite's centre at (0, 0) and y downwards."""

    def __init__(self, image: Image.Image, centre: Point, scale: float, tilt: float) -> None:
        self.draw = ImageDraw.Draw(image)
        self.centre, self.scale = centre, scale
        self.cos, self.sin = math.cos(tilt), math.sin(tilt)

    def at(self, point: Point) -> Point:
        x, y = point
        return (
            self.centre[0] + self.scale * (x * self.cos - y * self.sin),
            self.centre[1] + self.scale * (x * self.sin + y * self.cos),
        )

    def fill(self, points: list[Point], colour: Colour) -> None:
        self.draw.polygon([self.at(point) for point in points], fill=colour)

    def line(self, points: list[Point], colour: Colour = INK, width: float = 0.008) -> None:
        self.draw.line([self.at(p) for p in points], fill=colour, width=round(width * self.scale), joint="curve")

    def disc(self, at: Point, radius: float, colour: Colour) -> None:
        x, y = self.at(at)
        r = radius * self.scale
        self.draw.ellipse((x - r, y - r, x + r, y + r), fill=colour)

    def tail(self, start: Point, length: float, colours: tuple[Colour, ...], bows: int = 7) -> None:
        points = [
            (start[0] + 0.06 * math.sin(t * 7) * t, start[1] + length * t) for t in np.linspace(0, 1, 60).tolist()
        ]
        self.line(points)
        for n in range(1, bows + 1):
            x, y = points[min(59, n * 60 // bows)]
            colour = colours[n % len(colours)]
            self.fill([(x, y), (x - 0.05, y - 0.03), (x - 0.05, y + 0.03)], colour)
            self.fill([(x, y), (x + 0.05, y - 0.03), (x + 0.05, y + 0.03)], colour)


def ring(count: int, radius: float, turn: float = 0.0, squeeze: float = 1.0) -> list[Point]:
    angles = [turn + 2 * math.pi * n / count for n in range(count)]
    return [(radius * math.sin(a), -radius * math.cos(a) * squeeze) for a in angles]


def delta(kite: Kite) -> None:
    kite.fill([(0, -0.3), (-0.55, 0.2), (0, 0.12)], RED)
    kite.fill([(0, -0.3), (0.55, 0.2), (0, 0.12)], (236, 84, 70))
    kite.fill([(0, -0.05), (-0.1, 0.12), (0, 0.3), (0.1, 0.12)], CREAM)
    kite.line([(0, -0.3), (0, 0.3)])
    for side in (-1, 1):
        kite.line([(0, -0.3), (side * 0.55, 0.2)])


def diamond(kite: Kite) -> None:
    top, right, foot, left = (0, -0.42), (0.32, -0.08), (0, 0.42), (-0.32, -0.08)
    for corner, colour in ((top, YELLOW), (right, BLUE), (foot, YELLOW), (left, BLUE)):
        follower = {top: right, right: foot, foot: left, left: top}[corner]
        kite.fill([corner, follower, (0, -0.08)], colour)
    kite.line([top, foot])
    kite.line([left, right])
    kite.tail(foot, 0.42, (RED, YELLOW, BLUE))


def box(kite: Kite) -> None:
    for y in (-0.36, 0.12):
        kite.fill([(-0.26, y), (0.14, y), (0.14, y + 0.24), (-0.26, y + 0.24)], GREEN)
        kite.fill([(0.14, y), (0.3, y - 0.1), (0.3, y + 0.14), (0.14, y + 0.24)], (36, 104, 52))
        kite.fill([(-0.26, y), (-0.1, y - 0.1), (0.3, y - 0.1), (0.14, y)], (120, 190, 120))
    for x, y in ((-0.26, 0), (0.14, 0), (0.3, -0.1)):
        kite.line([(x, y - 0.42), (x, y + 0.42)], width=0.014)


def star(kite: Kite) -> None:
    outer, inner = ring(6, 0.44), ring(6, 0.2, math.pi / 6)
    for n in range(6):
        kite.fill([(0, 0), outer[n], inner[n]], VIOLET if n % 2 else PINK)
        kite.fill([(0, 0), inner[n - 1], outer[n]], PINK if n % 2 else VIOLET)
    kite.disc((0, 0), 0.07, YELLOW)


def rokkaku(kite: Kite) -> None:
    points = [(0, -0.45), (0.34, -0.24), (0.34, 0.24), (0, 0.45), (-0.34, 0.24), (-0.34, -0.24)]
    kite.fill(points, CREAM)
    kite.disc((0, -0.02), 0.22, RED)
    kite.line([*points, points[0]], width=0.012)
    for y in (-0.24, 0.24):
        kite.line([(-0.34, y), (0.34, y)])


def dragon(kite: Kite) -> None:
    for n in range(14, -1, -1):
        t = n / 14
        at = (-0.5 + t * 1.0, 0.2 * math.sin(t * 6.5))
        kite.disc(at, 0.1 - 0.045 * t, (RED, ORANGE, YELLOW)[n % 3])
    kite.disc((-0.5, 0), 0.16, GREEN)
    for y in (-0.05, 0.05):
        kite.disc((-0.56, y), 0.035, CREAM)
        kite.disc((-0.57, y), 0.016, INK)


def sled(kite: Kite) -> None:
    for n, colour in enumerate((TEAL, CREAM, TEAL, CREAM, TEAL)):
        x = -0.25 + n * 0.1
        kite.fill([(x, -0.36), (x + 0.1, -0.36), (x + 0.1, 0.36), (x, 0.36)], colour)
    for side in (-1, 1):
        kite.fill([(side * 0.25, -0.36), (side * 0.46, -0.12), (side * 0.25, 0.36)], ORANGE)
        kite.line([(side * 0.25, -0.36), (side * 0.25, 0.36)], width=0.014)


def parafoil(kite: Kite) -> None:
    for n in range(8):
        x = -0.52 + n * 0.13
        y = 0.14 * (x / 0.52) ** 2
        kite.fill([(x, y - 0.16), (x + 0.13, y - 0.16), (x + 0.13, y + 0.1), (x, y + 0.1)], (ORANGE, BLUE)[n % 2])
        kite.line([(x + 0.065, y + 0.1), (0, 0.52)], width=0.004)


def bird(kite: Kite) -> None:
    for side in (-1, 1):
        kite.fill([(0, -0.12), (side * 0.3, -0.3), (side * 0.6, -0.02), (side * 0.28, -0.02), (0, 0.12)], INK)
        kite.fill([(0, 0.1), (side * 0.16, 0.36), (0, 0.28)], INK)
    kite.fill([(-0.07, -0.26), (0.07, -0.26), (0.06, 0.24), (-0.06, 0.24)], (78, 82, 100))
    kite.disc((0, -0.28), 0.085, (78, 82, 100))
    kite.fill([(-0.03, -0.34), (0.03, -0.34), (0, -0.43)], ORANGE)


def octopus(kite: Kite) -> None:
    for n in range(8):
        x = -0.28 + n * 0.08
        points = [(x + 0.05 * math.sin(t * 5 + n), 0.5 * t) for t in np.linspace(0, 1, 40).tolist()]
        kite.line(points, PINK if n % 2 else VIOLET, width=0.035)
    kite.disc((0, -0.12), 0.32, VIOLET)
    for side in (-1, 1):
        kite.disc((side * 0.12, -0.14), 0.07, CREAM)
        kite.disc((side * 0.12, -0.12), 0.035, INK)


def wheel(kite: Kite) -> None:
    rim = ring(24, 0.44)
    for n in range(24):
        kite.fill([(0, 0), rim[n], rim[(n + 1) % 24]], (RED, YELLOW, TEAL)[n % 3])
    kite.disc((0, 0), 0.2, CREAM)
    kite.disc((0, 0), 0.12, BLUE)


def ladder(kite: Kite) -> None:
    for n in range(6):
        y = -0.4 + n * 0.15
        half = 0.3 - n * 0.03
        kite.fill([(0, y - 0.09), (half, y), (0, y + 0.09), (-half, y)], (BLUE, TEAL, GREEN, YELLOW, ORANGE, RED)[n])
    kite.line([(0, -0.5), (0, 0.5)])


# slug: (shape, width, height, sky from top to horizon, tilt, seed)
KITES: dict[str, tuple[Callable[[Kite], None], int, int, tuple[Colour, Colour], float, int]] = {
    "red-delta": (delta, 2400, 1600, ((70, 130, 200), (206, 228, 242)), 0.15, 1),
    "harbour-diamond": (diamond, 1600, 2400, ((96, 150, 210), (250, 226, 190)), -0.2, 2),
    "surveyor-box": (box, 2400, 1600, ((130, 160, 190), (226, 230, 232)), 0.1, 3),
    "evening-star": (star, 2000, 2000, ((48, 40, 92), (240, 150, 110)), 0.0, 4),
    "six-corner-sun": (rokkaku, 1600, 2400, ((110, 170, 214), (236, 242, 244)), 0.08, 5),
    "long-dragon": (dragon, 2400, 1350, ((60, 140, 190), (214, 236, 238)), -0.1, 6),
    "striped-sled": (sled, 1800, 1800, ((86, 146, 214), (216, 232, 246)), 0.12, 7),
    "eight-cell-foil": (parafoil, 2400, 1600, ((40, 110, 180), (190, 220, 240)), 0.0, 8),
    "night-crow": (bird, 2400, 1500, ((232, 170, 120), (252, 226, 180)), -0.12, 9),
    "grey-octopus": (octopus, 1600, 2200, ((120, 180, 200), (232, 240, 226)), 0.05, 10),
    "mill-wheel": (wheel, 2000, 2000, ((100, 160, 220), (230, 238, 240)), 0.3, 11),
    "weather-ladder": (ladder, 1500, 2400, ((90, 120, 160), (210, 216, 224)), 0.1, 12),
}
WEBP = {"evening-star", "night-crow"}
# What two details of a kite show of its picture: left, top, right and bottom, as parts of its sides.
DETAILS = {"sail": (0.3, 0.25, 0.7, 0.55), "keel": (0.35, 0.45, 0.65, 0.75)}
PNG_SMALL = {"weather-ladder"}


def sky(width: int, height: int, colours: tuple[Colour, Colour], seed: int) -> Image.Image:
    top, foot = (np.array(colour, float) for colour in colours)
    down = np.linspace(0, 1, height)[:, None, None]
    field = np.broadcast_to(top * (1 - down) + foot * down, (height, width, 3)).copy()
    field += (np.linspace(0, 8, width) - 4)[None, :, None]  # a little light from one side
    picture = Image.fromarray(field.clip(0, 255).astype(np.uint8))
    random = np.random.default_rng(seed)
    clouds = Image.new("L", (width // 4, height // 4), 0)
    draw = ImageDraw.Draw(clouds)
    for _ in range(5):
        x, y = random.uniform(0, width / 4), random.uniform(0, height / 8)
        for _ in range(9):
            dx, dy, r = (
                random.normal(0, width / 40),
                random.normal(0, height / 100),
                random.uniform(8, width / 50),
            )
            draw.ellipse((x + dx - r, y + dy - r * 0.6, x + dx + r, y + dy + r * 0.6), fill=150)
    mask = clouds.filter(ImageFilter.GaussianBlur(6)).resize((width, height), Image.Resampling.BICUBIC)
    picture.paste((255, 255, 255), mask=mask)
    land = ImageDraw.Draw(picture)
    hills = [(x, height * (0.93 - 0.03 * math.sin(x / width * 5 + seed))) for x in range(0, width + 40, 40)]
    land.polygon([(0, height), *hills, (width, height)], fill=(96, 132, 84))
    return picture


def kite_picture(slug: str) -> Image.Image:
    shape, width, height, colours, tilt, seed = KITES[slug]
    background = sky(width, height, colours, seed)
    short = min(width, height)
    large = background.resize((width * 2, height * 2))
    centre = (width * 1.02, height * 0.86)
    line = ImageDraw.Draw(large)
    line.line([centre, (width * 0.5, height * 1.86)], fill=(70, 70, 80), width=5)
    shape(Kite(large, centre, short * 1.66, tilt))
    return large.resize((width, height), Image.Resampling.LANCZOS)


def fit(picture: Image.Image, longest: int) -> Image.Image:
    copy = picture.copy()
    copy.thumbnail((longest, longest), Image.Resampling.LANCZOS)
    return copy


def detail(picture: Image.Image, bounds: tuple[float, float, float, float]) -> Image.Image:
    left, top, right, bottom = bounds
    width, height = picture.size
    return picture.crop((round(width * left), round(height * top), round(width * right), round(height * bottom)))


def save(picture: Image.Image, path: Path, **options: int) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    picture.save(path, None, **options)


def icon(colour: Colour, letter: Callable[[ImageDraw.ImageDraw], None], size: int) -> Image.Image:
    image = Image.new("RGBA", (128, 128), (0, 0, 0, 0))
    draw = ImageDraw.Draw(image)
    draw.rounded_rectangle((4, 4, 124, 124), 28, fill=(*colour, 255))
    letter(draw)
    return image.resize((size, size), Image.Resampling.LANCZOS)


def furniture(site: Path) -> None:
    folder = site / "furniture"
    save(icon(BLUE, lambda d: d.line((30, 64, 98, 64), fill="white", width=14), 24), folder / "flock.png")
    save(
        icon(TEAL, lambda d: d.ellipse((36, 36, 92, 92), outline="white", width=12), 24),
        folder / "ringside.png",
    )
    save(
        icon(PINK, lambda d: d.polygon([(44, 32), (44, 96), (96, 64)], fill="white"), 24),
        folder / "playback.png",
    )
    save(
        icon(INK, lambda d: d.rectangle((30, 44, 98, 84), outline="white", width=10), 16),
        folder / "letter.png",
    )
    spacer = Image.new("P", (1, 1), 0)
    spacer.info["transparency"] = 0
    save(spacer, folder / "spacer.gif")
    save(spacer, folder / "visit.gif")
    save(
        icon(RED, lambda d: d.polygon([(64, 16), (104, 56), (64, 112), (24, 56)], fill="white"), 32),
        site / "favicon.png",
    )


def windsock(site: Path) -> None:
    frames = []
    for n in range(8):
        frame = Image.new("RGB", (320, 200), (196, 222, 240))
        draw = ImageDraw.Draw(frame)
        draw.line((40, 30, 40, 200), fill=INK, width=6)
        for part in range(5):
            lift = 6 * math.sin(n / 8 * 2 * math.pi + part)
            x, y = 44 + part * 46, 44 + part * 7 + lift
            draw.polygon(
                [(x, y), (x + 46, y + 4), (x + 46, y + 40 - part * 3), (x, y + 48 - part * 4)],
                fill=(RED, CREAM)[part % 2],
            )
        frames.append(frame.quantize(32))
    frames[0].save(site / "news" / "windsock.gif", save_all=True, append_images=frames[1:], duration=90, loop=0)


def poster(site: Path) -> None:
    image = Image.new("RGB", (900, 1200), CREAM)
    canvas = Kite(image, (450, 520), 760, 0.0)
    star(canvas)
    draw = ImageDraw.Draw(image)
    for n, colour in enumerate((RED, ORANGE, YELLOW, GREEN, TEAL, BLUE, VIOLET)):
        draw.rectangle((60, 960 + n * 26, 840, 980 + n * 26), fill=colour)
    save(image.quantize(64), site / "news" / "poster-900x1200.png", optimize=1)


def main() -> None:
    site = Path(sys.argv[1]) if len(sys.argv) > 1 else SITE
    for slug in KITES:
        picture = kite_picture(slug)
        if slug in WEBP:
            save(picture, site / "originals" / f"{slug}.webp", quality=78, method=4)
        else:
            save(picture, site / "originals" / f"{slug}.jpg", quality=76, optimize=1)
        save(fit(picture, 240), site / "thumbs" / f"{slug}.jpg", quality=80)
        for part, bounds in DETAILS.items():
            save(fit(detail(picture, bounds), 480), site / "details" / f"{slug}-{part}.jpg", quality=72)
        small = site / "small" / slug
        if slug in PNG_SMALL:
            save(fit(picture, 120), small.with_suffix(".png"))
        else:
            save(fit(picture, 120), small.with_suffix(".jpg"), quality=80)
        if slug in {"red-delta", "long-dragon", "eight-cell-foil"}:
            for width in (480, 960):
                save(fit(picture, width), site / "news" / f"{slug}-{width}.jpg", quality=78)
    furniture(site)
    (site / "news").mkdir(parents=True, exist_ok=True)
    windsock(site)
    poster(site)
    save(fit(kite_picture("harbour-diamond"), 700), site / "news" / "Über den Dünen 2.jpg", quality=78)
    save(fit(kite_picture("striped-sled"), 640), site / "news" / "workshop.png")
    total = sum(path.stat().st_size for path in site.rglob("*") if path.is_file())
    print(f"{sum(1 for p in site.rglob('*') if p.is_file())} files, {total / 1e6:.2f} MB in {site.name}")


if __name__ == "__main__":
    main()
