"""Addresses by the WHATWG URL standard: making them absolute, and reading what they say.

An address is sent as the page wrote it, normalised by the standard and nothing more: ``%7E`` and ``%zz`` stay as
they are, since a signature may cover them.
"""

import re
from base64 import b64decode
from functools import lru_cache
from itertools import takewhile
from urllib.parse import unquote, unquote_to_bytes

import ada_url

from pickcrate import media
from pickcrate.hashes import sha256
from pickcrate.text.lazyre import lazy

WEB_SCHEMES = ("http://", "https://")
_WITHOUT_HOST = ("file:///", "about:")
_LONGEST_DATA = 256
_LONGEST_KEPT = 500
"""Characters of an address that is taken apart once for all who ask: a page has few that are longer"""
_MOST_KEPT = 4_096
_SHORTEST_ROUTE = len("#!/")
"""of a fragment: what is as short leads to where the page begins"""


def absolute(raw: str, base: str) -> str | None:
    """Return ``raw`` against ``base`` as an absolute address without its fragment, or None if it is not one.

    WHATWG URL, section 4.4 (URL parsing). The fragment is never sent to a server, so two addresses that differ
    only there are one picture.

    Departs: where ``base`` has no host, on a saved page or in a list, ``//cdn.kites.example/red.jpg`` is of the web.
    """
    return _joined(raw, base) if len(raw) <= _LONGEST_KEPT else _joined.__wrapped__(raw, base)


@lru_cache(_MOST_KEPT)
def _joined(raw: str, base: str) -> str | None:
    if base.startswith(_WITHOUT_HOST) and is_network_path(raw):
        raw = f"https:{raw.strip()}"
    try:
        joined: str = ada_url.join_url(base, raw)
    except ValueError:
        return None
    # Attributes may hold lone surrogates after decoding; ada writes U+FFFD for them, as the standard does.
    whole = joined.partition("#")[0]
    return unquote(whole) if whole.startswith("cid:") else whole  # RFC 2392: it stands for what it spells


_TO_BE_FILLED = lazy(
    r"\{\{[^{}]{0,300}+\}\}|\$?\{[a-z_][a-z_.]{0,60}+\}|\$\{[^{}]{1,300}+\}|\{%[^{}%]{0,300}+%\}|<%[^<>%]{0,300}+%>"
    r"|\[\[[^\[\]]{1,300}+\]\]",
    re.IGNORECASE,
)
"""a place in a text that a language of templates marks, or a script's own templates (ECMA-262, 13.2.8)"""


def is_template(raw: str) -> bool:
    """Tell whether an address or words, as written, have a place that a program is to fill: ``/k/{{ id }}.jpg``."""
    if "{" not in raw and "<%" not in raw and "[[" not in raw:
        return False
    return not raw.lstrip().startswith("data:") and _TO_BE_FILLED.search(raw) is not None


_FRAGMENT = lazy(r"#[A-Za-z][\w-]{0,80}")


def is_fragment(text: str) -> bool:
    """Tell whether a text is a fragment alone (RFC 3986, 3.5): words may be told by the place where they stand."""
    return text[:1] == "#" and _FRAGMENT.fullmatch(text) is not None


_NETWORK_PATH = lazy(r"\s*//(?:[\w-]+\.)+[\w-]+(?::\d+)?(?:[/?#]|\s*\Z)")


def is_network_path(raw: str) -> bool:
    """Tell whether an address begins with a host and leaves the scheme open (RFC 3986, 4.2: network-path reference)."""
    return raw.lstrip().startswith("//") and _NETWORK_PATH.match(raw) is not None


_WITHOUT_SCHEME = lazy(
    r"(?:www\.(?:[\w-]{1,63}\.){1,9}[a-z]{2,24}|(?:[\w-]{1,63}\.){1,9}(?:com|org|net|edu|gov|info|museum|example))"
    r"(?::\d{1,5})?(?=[/?#]|\Z)"
    r"|(?:[\w-]{1,63}\.){1,9}[a-z]{2}(?::\d{1,5})?(?=/)",
    re.IGNORECASE,
)
"""a host as people write it; of a country's domains only those before a path, since files end so too: ``notes.md``"""


def lacks_scheme(text: str) -> bool:
    """Tell whether somebody who wrote ``text`` left the scheme of an address out: ``www.kites.example/hall``."""
    return _WITHOUT_SCHEME.match(text) is not None


def is_web(address: str) -> bool:
    """Tell whether an absolute address is fetched over HTTP."""
    return address.startswith(WEB_SCHEMES)


def looks_like_web(text: str) -> bool:
    """Tell whether somebody who typed ``text`` meant an address (any case, as people type)."""
    return text[:8].lower().startswith(WEB_SCHEMES)


def origin(address: str) -> str:
    """Return the scheme, host and port of an absolute web address: what a connection is kept for."""
    scheme, _, rest = address.partition("://")
    authority = rest.partition("/")[0].partition("?")[0].rpartition("@")[2]
    return f"{scheme}://{authority}"


def without_scheme(address: str) -> str:
    """Return an address from its host on: the same for a site that is reached over TLS by now."""
    return address.partition("://")[2] or address


def site(address: str) -> str:
    """Return the host of an address without its port, or an empty text for addresses without a host."""
    if not is_web(address):
        return ""
    host = origin(address).partition("://")[2]
    return host if host.endswith("]") else host.rpartition(":")[0] or host


def is_of_site(address: str, other: str) -> bool:
    """Tell whether two addresses are of one site: of one host but for ``www.`` before it, or both of none."""
    return bare_host(site(address)) == bare_host(site(other))


def bare_host(host: str) -> str:
    """Return a host without ``www.`` before it: the same site."""
    return host.removeprefix("www.")


def brief(address: str) -> str:
    """Return an address for ledgers and messages: no user name or password, a long ``data:`` one as its identity."""
    if "@" not in address and not address.startswith("data:"):  # as most
        return address
    return identity(without_userinfo(address))


_USERINFO = lazy(r"(?<=://)[^\s/?#\"'<>\\]*@")


def readable(address: str) -> str:
    """Return an address as browsers show it, its host and its path in letters (URL standard, 4.8: URL rendering)."""
    if not is_web(address) and not address.startswith("file:"):
        return address
    scheme, _, rest = address.partition("://")
    authority, slash, path = rest.partition("/")
    user, at, host = authority.rpartition("@")  # a name and a password stay as they are: what hides them looks for an @
    shown = ada_url.idna.decode(host) if "xn--" in host and host.isascii() else host
    return f"{scheme}://{user}{at}{shown or host}{slash}{unquote(path)}"


def without_userinfo(text: str) -> str:
    """Return a text with the user name and password taken out of every address in it.

    All that leaves the process goes through here: rows, lists, sheets, lines on the terminal, logs.
    """
    return _USERINFO.sub("", text) if "@" in text else text


def identity(address: str) -> str:
    """Return what stands for an address in ledgers, lists and messages: itself, or a digest of a long ``data:`` one."""
    if not address.startswith("data:") or len(address) <= _LONGEST_DATA:
        return address
    head, _, body = address.partition(",")
    return f"{head[:80]},sha256-{sha256(body.encode('utf-8', 'surrogatepass')).hexdigest()}"


def decode_data(address: str) -> tuple[str, bytes] | None:
    """Return the media type and the bytes of a ``data:`` address (Fetch standard, 6), or None if it is malformed."""
    head, comma, body = address.removeprefix("data:").partition(",")
    if not comma:
        return None
    octets = unquote_to_bytes(body)
    media_type, _, last = head.rpartition(";")
    if last.strip().lower() != "base64":
        return head.strip(), octets
    decoded = _forgiving_base64(octets)
    return None if decoded is None else (media_type.strip(), decoded)


def _forgiving_base64(text: bytes) -> bytes | None:
    """Return what base64 stands for, or None if it is malformed (Infra standard, 8: forgiving-base64 decode)."""
    # 1. Remove ASCII whitespace.
    digits = text.translate(None, b"\t\n\f\r ")
    # 2. Of a whole number of groups, remove up to two signs of padding.
    if len(digits) % 4 == 0:
        digits = digits.removesuffix(b"=").removesuffix(b"=")
    # 3. and 4. One digit alone is no byte; what else is no digit makes it malformed.
    if len(digits) % 4 == 1 or b"=" in digits:
        return None
    try:
        return b64decode(digits + b"=" * (-len(digits) % 4), validate=True)
    except ValueError:
        return None


def is_drawing(address: str) -> bool:
    """Tell whether an address is itself a drawing: SVG in a ``data:`` one."""
    return address.startswith("data:image/svg")


def without_fragment(address: str) -> str:
    """Return an address without the part of the page that it leads to (URL standard, 4.1: fragment)."""
    return address.partition("#")[0]


def is_route(fragment: str) -> bool:
    """Tell whether a fragment, with its mark, leads to a page of its own, as a script shows it: ``#/kites/7``."""
    return len(fragment) > _SHORTEST_ROUTE and fragment.startswith(("#/", "#!"))


def page_address(address: str) -> str:
    """Return the address of the page that one leads to: without its fragment, unless that is a route."""
    bare, mark, fragment = address.partition("#")
    return address if is_route(mark + fragment) else bare


def is_other_page(address: str, page: str) -> bool:
    """Tell whether an address may be that of a page other than ``page``: of the web or on disk, and no picture's."""
    is_page = (is_web(address) or address.startswith("file:")) and image_type(address) is None
    return is_page and page_address(address) != page_address(page)


_FRONT = lazy(r"(?:index\d?\.\w{2,5}|home(?:\.\w{2,5})?|default\.\w{2,5})?", re.IGNORECASE)


def is_front_page(address: str, page: str) -> bool:
    """Tell whether an address is that of the front page of the site of ``page``, or of a folder above it."""
    if not is_of_site(address, page) or "?" in address:
        return False
    if "#" in address and without_fragment(address) == without_fragment(page):  # a place on the page, or a script's
        return False
    folder, _, last = path_of(address).rpartition("/")
    return path_of(page).startswith(f"{folder}/") and _FRONT.fullmatch(last) is not None


def leads_somewhere(href: str) -> bool:
    """Tell whether a link, as it is written, leads to another page, and not to a part of its own or to a script."""
    if href.startswith("#"):
        return is_route(href)
    return bool(href) and not href.lower().startswith(("javascript:", "mailto:", "tel:", "data:", "about:"))


def path_of(address: str) -> str:
    """Return the path of an absolute address, still percent-encoded."""
    rest = address.partition("://")[2]
    path = rest.partition("?")[0].partition("#")[0]
    return path[path.find("/") :] if "/" in path else "/"


def last_segment(address: str) -> str:
    """Return the last segment of the path, decoded; bytes that are not UTF-8 are read as windows-1252."""
    return _segment(address) if len(address) <= _LONGEST_KEPT else _segment.__wrapped__(address)


@lru_cache(_MOST_KEPT)
def _segment(address: str) -> str:
    segment = path_of(address).rpartition("/")[2]
    if "%" not in segment and segment.isascii():  # as most
        return segment
    octets = unquote_to_bytes(segment)
    try:
        return octets.decode("utf-8")
    except UnicodeDecodeError:
        return octets.decode("windows-1252", "replace")


def folder_of(address: str) -> str:
    """Return the name of the folder that an address's last segment lies in, decoded; empty at the top of a site."""
    return unquote(path_of(address).rstrip("/").rpartition("/")[0].rpartition("/")[2])


def split_extension(segment: str) -> tuple[str, str]:
    """Split ``"red-delta.jpg"`` into ``("red-delta", "jpg")``; the extension is empty if there is none.

    Parameters of a segment (``red.jpg;session=7``; RFC 3986, 3.3) are no part of a picture's extension.
    """
    if ";" in segment:
        bare = segment.partition(";")[0]
        segment = bare if media.by_extension(bare.rpartition(".")[2]) is not None else segment
    stem, dot, extension = segment.rpartition(".")
    return (stem, extension) if dot and stem else (segment, "")


def file_parts(address: str) -> tuple[str, str]:
    """Return the stem and the extension of the file that an address ends in, decoded."""
    return split_extension(last_segment(address))


SHORTEST_STEM = 4
"""Characters of a stem that still tell pictures apart."""

_LONGEST_STEM = 300
_MOST_SIZE_MARKS = 8
_SIZE_MARK = lazy(
    r"^(?:thumb|thumbs|thumbnail|tn|th|small|mini|preview|scaled|resized|medium|large|big|s|m|t)[-_.]|[-_.](?:thumb|thumbnail|tn|th|small|medium|preview|"
    r"large|full|big|slide|orig|original|hires|hi-res|max|zoom|x?xl|[smlt]|\d{2,4}(?:x\d{2,4})?(?:px|w)?)$",
    re.IGNORECASE,
)


def bare_stem(address: str) -> str:
    """Return a picture's name, lower case, without its extension and what marks its size: kin have the same."""
    stem = file_parts(address)[0].lower()
    for _ in range(_MOST_SIZE_MARKS if len(stem) <= _LONGEST_STEM else 0):
        bare = _SIZE_MARK.sub("", stem, count=1)
        if bare == stem or len(bare) < SHORTEST_STEM:
            break
        stem = bare
    return stem


def named_alike(thumbnail: str, original: str) -> bool:
    """Tell whether two addresses are named alike enough to be one picture: half of the shorter stem in common."""
    one, other = (file_parts(address)[0].lower() for address in (thumbnail, original))
    common = max(_common_start(one, other), _common_start(one[::-1], other[::-1]))
    return common * 2 > min(len(one), len(other)) > 0


_COUNT = lazy(r"(?<!\d)\d{1,2}(?!\d)")


def counted_alike(one: str, other: str) -> bool:
    """Tell whether no number that counts tells two files apart, as it does ``kite-1.jpg`` and ``kite-2.jpg``."""
    own, others = (_COUNT.findall(file_parts(address)[0]) for address in (one, other))
    return own == others


def _common_start(one: str, other: str) -> int:
    return sum(1 for _ in takewhile(lambda pair: pair[0] == pair[1], zip(one, other, strict=False)))


_IN_NO_PATH = frozenset('<>|"*\n\r\t')
_LONGEST_PATH = 2_000


def is_picture_path(text: str) -> bool:
    """Tell whether a text may be where a picture's file is, relative or not: ``photos/Red kite.jpg``."""
    if not 0 < len(text) <= _LONGEST_PATH or not _IN_NO_PATH.isdisjoint(text):
        return False
    return media.by_extension(split_extension(text.partition("?")[0].rpartition("/")[2])[1]) is not None


def is_file_path(text: str) -> bool:
    """Tell whether words are the path of a picture's file, as programs put it where nobody says more."""
    return " " not in text and is_picture_path(text.replace("\\", "/"))


_NO_IMAGES = frozenset(
    "css js mjs json map xml xsl html htm xhtml txt md pdf zip gz woff woff2 ttf otf eot htc mp3 mp4 m4v webm ogg ogv "
    "mov avi wav vtt swf wasm".split()
)


def claims_no_image(address: str) -> bool:
    """Tell whether an address's extension is that of something else: a font, a style sheet, a film."""
    return file_parts(address)[1].lower() in _NO_IMAGES


_ABOUT_FILES = frozenset(
    "File Image Datei Bild Fichier Archivo Ficheiro Arquivo Imagem Immagine Bestand Plik Soubor Fil Tiedosto Fájl "
    "Dosya Файл Зображення Αρχείο ファイル 画像 文件 檔案 파일 קובץ ملف".split()
)
"""what wikis call the pages about their files: such a page has the file's name, behind a colon"""


def image_type(address: str) -> media.ImageType | None:
    """Return the image type that an address claims, by its last segment's extension or (``data:``) its media type.

    None if it claims none, as a wiki's page about a file, whatever the file is.
    """
    if address.startswith("data:"):
        return media.by_media_type(address[5:].partition(",")[0])
    segment = last_segment(address)
    if ":" in segment and segment.partition(":")[0] in _ABOUT_FILES:
        return None
    return media.by_extension(split_extension(segment)[1])
