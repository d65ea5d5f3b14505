"""Pictures that are kept in tiles: their descriptions are read, and the largest version that can be had comes first.

A version that one request brings is asked for its first bytes before it is believed: some servers send less than they
announce, or nothing.
"""

import itertools
from collections import defaultdict
from collections.abc import Iterable, Iterator

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.addresses.url import image_type, origin
from pickcrate.fetch.exchange import Fetcher, Reply, Request
from pickcrate.fullsize.description import is_description, pyramid_of, service_of
from pickcrate.media import by_extension
from pickcrate.read.data.iiif import read_iiif
from pickcrate.read.data.pyramid import read_tiles
from pickcrate.read.recognise import Kind, recognise
from pickcrate.run.look.probes import Probes, probed
from pickcrate.values.evidence import Basis, Evidence
from pickcrate.values.image import Candidate, Image
from pickcrate.values.measures import Grade, Measure, Measures
from pickcrate.values.tiling import Layout, Level, Tiling, Whole

_MOST_BYTES = 2_000_000
_MOST_TRIES = 4
"""Versions of a picture that are asked for, until one comes."""

_WITNESSES = 3
"""Services of a site whose descriptions are read before it is believed that none of them sends less than it has."""


class _Case(Struct, frozen=True):
    """One image, and the address of the description that says what there is of it."""

    image: Image
    address: str
    is_guess: bool = True
    """the address is ours: no page names it"""
    is_asked: bool = False
    """it is read whatever others of its site taught"""


def tiled(images: list[Image], fetcher: Fetcher, probes: Probes, most_pixels: int, *, full: bool) -> list[Image]:
    """Return ``images``, those that are kept in tiles with the largest version that can be had in front.

    Not larger than ``most_pixels`` where it is put together. Unless ``full`` is on only descriptions that are named
    as if they were pictures are read.
    """
    known = [(image, tiling) for image in images if full and (tiling := _described(image)) is not None]
    cases = [case for image in images if (case := _case(image, full=full)) is not None]
    if not (known or cases):
        return images
    settled = _Settling(fetcher, probes, most_pixels)
    settled.settle(known)
    certain = [case for case in cases if case.is_asked]
    settled.settle(settled.read(certain))
    by_site: defaultdict[str, list[_Case]] = defaultdict(list)
    for case in cases:
        if not case.is_asked and not _is_all(case.image, probes):
            by_site[origin(case.address)].append(case)
    settled.settle(settled.read(case for of_site in by_site.values() for case in of_site[:_WITNESSES]))
    later = (case for of_site in by_site.values() for case in of_site[_WITNESSES:])
    settled.settle(settled.read(case for case in later if settled.doubts(case)))
    return [settled.images.get(image.number, image) for image in images]


class _Settling:
    """The images of one source for which it is settled what there is of them."""

    def __init__(self, fetcher: Fetcher, probes: Probes, most_pixels: int) -> None:
        self.images: dict[int, Image] = {}
        self._fetcher = fetcher
        self._probes = probes
        self._most_pixels = most_pixels
        self._replies: dict[str, Reply] = {}
        self._sends_all: dict[str, int] = {}
        """by site, the longest side that a service sent as announced; 0 once one sent less"""

    def read(self, cases: Iterable[_Case]) -> list[tuple[Image, Tiling]]:
        """Return those of the images whose descriptions can be had, with what they say."""
        wanted = list(cases)
        requests = {
            case.address: Request(
                case.address,
                accept="application/ld+json,application/json,application/xml,*/*;q=0.5",
                referer=case.image.best_asker.page,
                trust=case.image.best_asker.trust,
                is_guess=case.is_guess,
                most=_MOST_BYTES,
            )
            for case in wanted
            if case.address not in self._replies
        }
        for reply in self._fetcher.fetch(requests.values()):
            if isinstance(reply, Reply):
                self._replies[reply.request.url] = reply
        read = ((case.image, self._tiling(case.address)) for case in wanted)
        return [(image, tiling) for image, tiling in read if tiling is not None]

    def _tiling(self, address: str) -> Tiling | None:
        reply = self._replies.get(address)
        if reply is None or reply.failure is not None:
            return None
        kind = recognise(reply.octets)
        reader = {Kind.IIIF: read_iiif, Kind.TILES: read_tiles}.get(kind) if kind is not None else None
        references = reader(reply.octets, reply.url).references if reader is not None else []
        return references[0].tiling if references else None

    def settle(self, found: list[tuple[Image, Tiling]]) -> None:
        """Put the largest version of each image in front."""
        services = [(image, tiling) for image, tiling in found if tiling.layout in {Layout.IIIF_2, Layout.IIIF_3}]
        for place in range(_MOST_TRIES):
            self._probes.read(
                {
                    tiling.wholes[place].url: image.best_asker
                    for image, tiling in services
                    if place < len(tiling.wholes) and self._lacks_whole(tiling, place)
                }
            )
        for _, tiling in services:
            self._learn(tiling)
        for image, tiling in found:
            self.images[image.number] = self._settled(image, tiling)

    def _lacks_whole(self, tiling: Tiling, tried: int) -> bool:
        return all(self._probes.header(version.url) is None for version in tiling.wholes[:tried])

    def _learn(self, tiling: Tiling) -> None:
        site, header = origin(tiling.address), self._probes.header(tiling.wholes[0].url)
        is_all = header is not None and (header.width, header.height) == (tiling.width, tiling.height)
        confirmed = self._sends_all.get(site, 1)
        longest = max(tiling.width, tiling.height)
        self._sends_all[site] = max(confirmed, longest) if is_all and confirmed else 0

    def doubts(self, case: _Case) -> bool:
        """Tell whether a service may have more than it sent: its site does not always send all, or not so large."""
        header, confirmed = self._probes.header(case.image.url), self._sends_all.get(origin(case.address), 0)
        return not confirmed or (header is not None and max(header.width or 0, header.height or 0) > confirmed)

    def _settled(self, image: Image, tiling: Tiling) -> Image:
        whole, levels = self._whole(tiling), tiling.within(self._most_pixels)
        rest = [candidate for candidate in image.candidates if not is_description(candidate.url)]
        known = rest[0] if rest else None
        if whole is not None and all(candidate.url != whole.url for candidate in rest):
            rest = [whole, *rest] if known is None or _area(whole) > _area(known) else [*rest[:1], whole, *rest[1:]]
        best = max(map(_area, rest), default=0)
        levels = tuple(level for level in levels if level.pixels > best)
        first = [_put_together(tiling, levels)] if levels else []
        shown = replace(image.shown, tiling=tiling)
        if is_description(shown.url) and whole is not None:
            shown = replace(shown, url=whole.url)
        references = tuple(shown if reference == image.shown else reference for reference in image.references)
        return replace(image, shown=shown, references=references, candidates=(*first, *rest))

    def _whole(self, tiling: Tiling) -> Candidate | None:
        """Return the largest version that one request brings, as it was seen to be; None if there is none."""
        for version in tiling.wholes:
            header = self._probes.header(version.url)
            if header is not None:
                evidence = Evidence(Basis.SERVICE, tiling.layout.value)
                return Candidate(version.url, evidence, probed(header), self._probes.words(version.url))
            if not self._probes.was_asked(version.url):
                return Candidate(version.url, Evidence(Basis.SERVICE, tiling.layout.value), _announced(version))
        return None


def _put_together(tiling: Tiling, levels: tuple[Level, ...]) -> Candidate:
    return Candidate(tiling.address, Evidence(Basis.TILES, str(levels[0])), _announced(levels[0]), tiles=levels)


def _announced(version: Level | Whole) -> Measures:
    kind = by_extension(version.ending.rpartition(".")[2]) if isinstance(version, Level) else image_type(version.url)
    return Measures(
        Measure(version.width, Grade.DECLARED),
        Measure(version.height, Grade.DECLARED),
        type=Measure(kind.name, Grade.DECLARED) if kind is not None else None,
    )


def _area(candidate: Candidate) -> int:
    sides = candidate.measures.width, candidate.measures.height
    return (sides[0].value if sides[0] else 0) * (sides[1].value if sides[1] else 0)


def _described(image: Image) -> Tiling | None:
    """Return what was said of an image where it was found."""
    return next((reference.tiling for reference in image.references if reference.tiling is not None), None)


def _case(image: Image, *, full: bool) -> _Case | None:
    """Return where the description of an image is to be looked for; None if it is not kept in tiles, or is known."""
    if is_description(image.url):
        return _Case(image, image.url, is_guess=False, is_asked=True)
    if not full or _described(image) is not None:
        return None
    if address := next(filter(None, map(pyramid_of, _addresses(image))), ""):
        return _Case(image, address, is_asked=True)
    address = service_of(image.url)
    return _Case(image, address) if address else None


def _addresses(image: Image) -> Iterator[str]:
    return itertools.chain((image.url,), (image.shown.url,))


def _is_all(image: Image, probes: Probes) -> bool:
    """Tell whether what came is as large as a manifest says that the picture is."""
    header = probes.header(image.url)
    said = next((reference.width for reference in image.references if reference.url == image.url), None)
    return header is not None and said is not None and (header.width or 0) >= said
