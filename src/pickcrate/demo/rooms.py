"""The museum's rooms that need a server: the reading room's book to sign, the shop's resizer, the wiki, the traps."""

import json
from collections.abc import Mapping
from http import HTTPStatus
from urllib.parse import parse_qs

from msgspec import Struct, field

_LEAVES = dict(
    enumerate(("red-delta", "mill-wheel", "long-dragon", "surveyor-box", "striped-sled", "grey-octopus"), start=41)
)
_SIGNED = "reader=signed"
_MEMBER = "member=signed-in"
_HUNG_AT_A_TIME = 4
_TOLD_AT_A_TIME = 5
_TYPES = {"evening-star": "webp", "night-crow": "webp"}
_PRINTS = {"sled.jpg": "striped-sled.jpg", "crow.jpg": "mill-wheel.jpg", "foil.jpg": "eight-cell-foil.jpg"}
_SIGN_IN_PAGE = """<!doctype html><title>Sign in · Galewick Kite Museum</title><h1>Sign in</h1>
<p>This room is for members.</p><form method="post" action="members/sign-in"><button>Sign in</button></form>"""
_ALBUM_PAGE = """<!doctype html><title>The members' album · Galewick Kite Museum</title><h1>The members' album</h1>
<main></main><script>
for (const [slug, name] of [["long-dragon", "Long Dragon, first flight"], ["grey-octopus", "Octopus"]]) {
document.querySelector("main").insertAdjacentHTML("beforeend",
`<figure><img src="originals/${slug}.jpg" width="300"><figcaption>${name}</figcaption></figure>`); }</script>"""
_VIEWS = {"3": "originals/six-corner-sun.jpg", "7": "originals/striped-sled.jpg"}
_CASES = {
    "cases/small/long-dragon.jpg": "thumbs/long-dragon.jpg",
    "cases/large/long-dragon.jpg": "originals/mill-wheel.jpg",
    "cases/red-delta_small.jpg": "thumbs/red-delta.jpg",
    "cases/red-delta.jpg": "small/red-delta.jpg",
}
_SIGN_PAGE = """<!doctype html><title>Sign the book · Galewick Kite Museum</title><h1>Before you read</h1>
<p>The reading room asks every visitor to sign the book.</p>
<form method="post" action="sign"><input type="hidden" name="n" value="{n}"><button>Sign and continue</button></form>"""
_LEAF_PAGE = """<!doctype html><title>Album leaf {n} · Galewick Kite Museum</title><h1>Album leaf {n}</h1>
<main><a href="scans/{n:04}.jpg"><img src="cards/{n:04}.jpg" alt="Album leaf {n}"></a></main>"""
_ALMANAC_PAGE = """<!doctype html><title>Almanac · Galewick Kite Museum</title><h1>The almanac, which never ends</h1>
<ul><li><img src="thumbs/red-delta.jpg"> Wind</li><li><img src="thumbs/night-crow.jpg"> No wind</li></ul>
<a rel="next" href="almanac?page={next}">Next</a>"""
_LONGEST_DAY = 6
_KITES = {
    "red-delta": ("Red Delta", "Ysolde Marrow", 1962),
    "harbour-diamond": ("Harbour Diamond", "Tam Okonjo-Reeve", 1931),
    "surveyor-box": ("Surveyor's Box", "The Galewick Weather Office", 1908),
    "evening-star": ("Evening Star", "Pell Arbuthnot", 1977),
    "long-dragon": ("Long Dragon", "The Brackley Lane School", 1989),
    "grey-octopus": ("Octopus", "Dag Winterbourne", 2003),
    "six-corner-sun": ("Six Corner Sun", "Ino Hallas", 1954),
    "striped-sled": ("Striped Sled", "Ysolde Marrow", 1970),
    "eight-cell-foil": ("Eight Cell Foil", "Dag Winterbourne", 1994),
    "night-crow": ("Night Crow", "Pell Arbuthnot", 1981),
    "mill-wheel": ("Mill Wheel", "Ino Hallas", 1966),
    "weather-ladder": ("Weather Ladder", "The Galewick Weather Office", 1911),
}
_KITE_PAGE = """<!doctype html><html lang="en"><title>{name} · Galewick Kite Museum</title>
<link rel="icon" href="../favicon.png"><link rel="stylesheet" href="../museum.css">
<header><a href="../index.html">
<img src="../furniture/logo.svg" width="180" height="48" alt="Galewick Kite Museum"></a></header>
<main><h1>{name}</h1>
<p><img src="../thumbs/{slug}.jpg" alt=""> <img src="../details/{slug}-sail.jpg" alt="">
<img src="../details/{slug}-keel.jpg" alt=""></p>
<dl><dt>Maker</dt><dd>{maker}</dd><dt>Year</dt><dd>{year}</dd></dl>
<p><img src="../news/poster-900x1200.png" width="300" alt="The festival is in May"></p>
<h2>Beside it in the house</h2><ul>{others}</ul></main>
<footer><img src="../furniture/letter.png" width="16" height="16" alt="">
Galewick Kite Museum, 4 Windlass Steps</footer>
</html>"""


class Visit(Struct, frozen=True):
    """One request to the museum: its path without the first slash, its query, a posted form, and cookies."""

    path: str
    query: str = ""
    form: str | None = None
    cookies: str = ""


class Answer(Struct, frozen=True):
    """What a room answers: a file of the site under another address, or a page, with further fields."""

    file: str = ""
    page: str = ""
    status: HTTPStatus = HTTPStatus.OK
    fields: Mapping[str, str] = field(default_factory=dict)


_REFUSED = Answer(page="<!doctype html><title>Not like this</title>", status=HTTPStatus.FORBIDDEN)


def enter(visit: Visit) -> Answer | None:  # noqa: C901, PLR0911, PLR0912 (a room a case)
    """Return what the room at an address answers, or None if there is none: then it is a file of the site."""
    room, _, rest = visit.path.partition("/")
    match room:
        case "view":
            return Answer(file=_VIEWS.get(visit.query.removeprefix("id="), "nothing"))
        case "members":
            return _members(rest, visit)
        case "wall":
            return _wall(_first(visit.query, "from"))
        case "api":
            return _answer(_first(visit.query, "offset")) if rest == "kites" else None
        case "prints":
            return Answer(file=f"originals/{_PRINTS.get(rest, 'nothing')}")
        case "robots.txt":
            return Answer(page="User-agent: *\nDisallow: /attic/\n", fields={"Content-Type": "text/plain"})
        case "card" | "sign" | "cards" | "scans":
            return _reading_room(room, rest, visit)
        case "resize":
            picture = _first(visit.query, "picture").rpartition("/")[2]
            return Answer(file=f"{'thumbs' if _first(visit.query, 'w') else 'originals'}/{picture}")
        case "print":
            return Answer(file=f"{'thumbs' if rest.startswith('w_') else 'originals'}/{rest.rpartition('/')[2]}")
        case "wiki":
            folder = "thumbs" if rest.startswith("thumb/") else "originals"
            return Answer(file=f"{folder}/{rest.rpartition('px-')[2].rpartition('/')[2].lower().replace('_', '-')}")
        case "signed":
            return Answer(file="thumbs/mill-wheel.jpg") if visit.query == "w=240&sig=5f1d0c27a9be" else _REFUSED
        case "kite":
            return _kite_page(rest.removesuffix(".html"))
        case "almanac":
            day = _first(visit.query, "page")
            number = int(day) + 1 if day.isdecimal() and len(day) < _LONGEST_DAY else 2
            return Answer(page=_ALMANAC_PAGE.format(next=number))
        case "cases":
            return Answer(file=_CASES.get(visit.path, "nothing"))
        case _ if room.startswith("File:"):
            return Answer(page=f"<!doctype html><title>{room}</title><p>What the wiki knows of this file.</p>")
    return None


def _wall(start: str) -> Answer:
    """Tell the next kites of the wall, as its page's script asks for them."""
    first = _counted(start)
    kites = [
        {"small": f"thumbs/{slug}.jpg", "large": _original(slug), "name": name} for slug, (name, _, _) in _KITES.items()
    ]
    told = {"kites": kites[first : first + _HUNG_AT_A_TIME], "more": first + _HUNG_AT_A_TIME < len(kites)}
    return Answer(page=json.dumps(told), fields={"Content-Type": "application/json"})


def _answer(start: str) -> Answer:
    """Tell some kites as an interface for programs does, and where it goes on."""
    first = _counted(start)
    kites = [
        {
            "type": "kite",
            "attributes": {"title": name, "maker": maker, "year": year},
            "links": {"self": f"/kite/{slug}.html"},
            "pictures": [
                {"size": "small", "url": f"/thumbs/{slug}.jpg"},
                {"size": "large", "url": f"/{_original(slug)}"},
            ],
        }
        for slug, (name, maker, year) in _KITES.items()
    ]
    last = first + _TOLD_AT_A_TIME
    links = {"next": f"kites?offset={last}" if last < len(kites) else None}
    told = {"count": len(kites), "links": links, "data": kites[first:last]}
    return Answer(page=json.dumps(told), fields={"Content-Type": "application/json"})


def _original(slug: str) -> str:
    return f"originals/{slug}.{_TYPES.get(slug, 'jpg')}"


def _counted(start: str) -> int:
    return int(start) if start.isdecimal() and len(start) < _LONGEST_DAY else 0


def _members(rest: str, visit: Visit) -> Answer:
    """Ask who one is, or show the members' album, which a script makes."""
    if visit.form is not None and rest == "sign-in":
        fields = {"Location": "../members", "Set-Cookie": f"{_MEMBER}; Path=/; Max-Age=86400; SameSite=Lax"}
        return Answer(status=HTTPStatus.SEE_OTHER, fields=fields)
    return Answer(page=_ALBUM_PAGE if _MEMBER in visit.cookies else _SIGN_IN_PAGE)


def _reading_room(room: str, rest: str, visit: Visit) -> Answer:
    """Show the book to sign, or the cards to those who signed it; the scans are for them alone."""
    has_signed = _SIGNED in visit.cookies
    number = _first(visit.query if visit.form is None else visit.form, "n") or rest.partition(".")[0]
    leaf = int(number) if number.isdecimal() else 0
    kite = _LEAVES.get(leaf, "nothing")
    if room == "sign":
        fields = {"Location": f"card?n={leaf}", "Set-Cookie": f"{_SIGNED}; Path=/; SameSite=Lax"}
        return Answer(status=HTTPStatus.SEE_OTHER, fields=fields)
    if room == "card":
        return Answer(page=(_LEAF_PAGE if has_signed else _SIGN_PAGE).format(n=leaf))
    if room == "cards":
        return Answer(file=f"thumbs/{kite}.jpg")
    return Answer(file=f"originals/{kite}.jpg") if has_signed else _REFUSED


def _kite_page(slug: str) -> Answer:
    """Show one kite with its details, two others beside it, and what every page of this kind has."""
    if slug not in _KITES:
        return Answer(file="nothing")
    slugs = list(_KITES)
    at = slugs.index(slug)
    others = "".join(
        f'<li><a href="{other}.html"><img src="../thumbs/{other}.jpg" alt=""> {_KITES[other][0]}</a></li>'
        for other in (slugs[at - 1], slugs[(at + 1) % len(slugs)])
    )
    name, maker, year = _KITES[slug]
    return Answer(page=_KITE_PAGE.format(slug=slug, name=name, maker=maker, year=year, others=others))


def _first(query: str, name: str) -> str:
    return parse_qs(query).get(name, [""])[0]
