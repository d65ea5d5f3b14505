"""The first bytes of addresses: what they are and how large, each asked for once a run."""

from collections import defaultdict
from collections.abc import Container, Iterable

from msgspec.structs import replace

from pickcrate.addresses.url import decode_data, file_parts, origin
from pickcrate.fetch.exchange import Fetcher, Reply, Request
from pickcrate.fetch.patience import may_pass
from pickcrate.hashes import sha256
from pickcrate.media.header import Header, read_header
from pickcrate.text.numerals import whole
from pickcrate.values.image import Image
from pickcrate.values.measures import Grade, Measure, Measures
from pickcrate.values.trust import Asker

_FIRST_BYTES = 32_768
"""Enough to know the size of 99.6 % of web pictures."""

_MOST_FURTHER = 100
"""Pictures of a source that are looked at further: a page may be made of such."""

_FURTHER_BYTES = 1_048_576
"""Enough for nearly all of the rest: colour profiles, previews and metadata stand before the size."""


class Probes:
    """What the first bytes of addresses said, each asked for once for a source: another may bring others along."""

    def __init__(self, fetcher: Fetcher) -> None:
        self._fetcher = fetcher
        self._room = _MOST_FURTHER
        self._headers: dict[str, Header | None] = {}
        self._sizes: dict[str, Measure[int]] = {}
        self._words: dict[str, str] = {}
        self._not_now: set[str] = set()
        self._prints: dict[str, int] = {}
        self._nowhere: dict[str, str] = {}

    def read(self, wanted: dict[str, Asker], guesses: Container[str] = ()) -> None:
        """Ask for those of ``wanted`` that are not known, in one batch; each address comes with who asks for it.

        ``guesses`` are those that we made up.
        """
        requests = [
            Request(url, referer=asker.page, trust=asker.trust, first=_FIRST_BYTES, is_guess=url in guesses)
            for url, asker in wanted.items()
            if url not in self._headers
        ]
        unsized: list[Request] = []
        for reply in self._fetcher.fetch(requests):
            if isinstance(reply, Reply):
                self._take(reply)
                if _may_have_its_size_further_on(reply, self._headers[reply.request.url]):
                    unsized.append(replace(reply.request, first=_FURTHER_BYTES))
        unsized = unsized[: self._room]
        self._room -= len(unsized)
        for reply in self._fetcher.fetch(unsized):
            if isinstance(reply, Reply) and reply.failure is None:
                header = self._headers[reply.request.url] = read_header(reply.octets)
                self._words[reply.request.url] = _told(header)

    def _take(self, reply: Reply) -> None:
        url = reply.request.url
        header = self._headers[url] = read_header(reply.octets) if reply.failure is None else None
        if (size := _whole_size(reply)) is not None:
            self._sizes[url] = Measure(size, Grade.PROBED)
        if header is not None:
            self._prints[url] = hash(reply.octets)  # keyed, of 64 bits: nothing is to be loaded for it
        if reply.failure is not None and may_pass(reply.failure):
            self._not_now.add(url)
        self._words[url] = reply.failure.words if reply.failure else _told(header)

    def measured(self, image: Image) -> Image:
        """Return ``image`` with what the first bytes of its best address said, if they are known."""
        header = self._headers.get(image.url)
        if header is None:
            return image
        return image.measured(_measures(header, self._sizes.get(image.url)))

    def fingerprint(self, url: str) -> int | None:
        """Return what an address's first bytes share with no other picture's; None if it is no image, or not asked."""
        return self._prints.get(url)

    def nowhere(self, url: str) -> str:
        """Return an address that cannot exist on the site of ``url``: the same for all of that site."""
        site = origin(url)
        if site not in self._nowhere:
            bare = url.partition("?")[0]
            extension = file_parts(url)[1]
            name = f"no-such-{sha256(url.encode('utf-8', 'replace')).hexdigest()[:12]}"
            self._nowhere[site] = f"{bare.rpartition('/')[0]}/{name}{f'.{extension}' if extension.isalnum() else ''}"
        return self._nowhere[site]

    def is_placeholder(self, url: str) -> bool:
        """Tell whether an address brought what its site answers to an address that cannot exist."""
        stand_in = self._prints.get(self._nowhere.get(origin(url), ""))
        return stand_in is not None and self._prints.get(url) == stand_in

    def stand_ins(self, versions: Iterable[tuple[str, str]]) -> set[int]:
        """Return the fingerprints that came for versions of different pictures: what a site has for what is gone.

        ``versions`` are addresses of versions, each with the address of the picture that is shown.
        """
        seen: defaultdict[int, set[tuple[str, int | None]]] = defaultdict(set)
        for url, shown_url in versions:
            shown, found = self.fingerprint(shown_url), self.fingerprint(url)
            if found is not None and found != shown:
                seen[found].add((url, shown))
        return {
            found
            for found, of in seen.items()
            if len({url for url, _ in of}) > 1 and len({shown for _, shown in of}) > 1
        }

    def words(self, url: str) -> str:
        """Return what an address is, for people."""
        return self._words.get(url, "not asked for")

    def was_asked(self, url: str) -> bool:
        """Tell whether an address was asked for."""
        return url in self._headers

    def failed_for_now(self, url: str) -> bool:
        """Tell whether an address could not be had for a reason that may pass: it says nothing of what is there."""
        return url in self._not_now

    def header(self, url: str) -> Header | None:
        """Return what an address is; None if it could not be had, is no image, or was not asked for."""
        return self._headers.get(url)


def measured_by_itself(image: Image) -> Image:
    """Return a picture whose address holds all its bytes, with what those say."""
    _, octets = decode_data(image.url) or ("", b"")
    header = read_header(octets)
    return image if header is None else image.measured(_measures(header, Measure(len(octets), Grade.PROBED)))


def _may_have_its_size_further_on(reply: Reply, header: Header | None) -> bool:
    return header is not None and header.width is None and header.type != "svg" and len(reply.octets) >= _FIRST_BYTES


def _whole_size(reply: Reply) -> int | None:
    """Return the bytes of the whole picture: what came if that is all, else what the response says (RFC 9110, 14.4)."""
    if reply.failure is not None or "content-encoding" in reply.headers:
        return None
    total = reply.headers.get("content-range", "").rpartition("/")[2]
    if (size := whole(total)) is not None:
        return size
    length = whole(reply.headers.get("content-length", ""))
    if length is not None and reply.status == 200:
        return length
    return reply.size if reply.size < _FIRST_BYTES else None


def _measures(header: Header, size: Measure[int] | None) -> Measures:
    return replace(probed(header), bytes=size)


def _told(header: Header | None) -> str:
    if header is None:
        return "not an image"
    return f"{header.type.upper()} {header.width or '?'}×{header.height or '?'}"


def probed(header: Header) -> Measures:
    """Return what a header measures."""
    return Measures(
        width=Measure(header.width, Grade.PROBED) if header.width else None,
        height=Measure(header.height, Grade.PROBED) if header.height else None,
        type=Measure(header.type, Grade.PROBED),
    )
