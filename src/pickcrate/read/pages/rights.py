"""What a page, or the answer with a picture, says of the use of pictures.

Credits and licences; robots rules (the ``robots`` meta element and the ``X-Robots-Tag`` field, in which directives may
be for one robot by its name); reservations of text and data mining (TDM Reservation Protocol, W3C community report
2024, 6.1 and 6.3).
"""

import itertools
import re
from collections.abc import Iterable, Iterator, Mapping
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace

from pickcrate.addresses.url import absolute, is_web
from pickcrate.media.embedded import CREDITS, LICENCES, TERMS, Embedded, licence_in
from pickcrate.text.headers import words_of
from pickcrate.text.lazyre import lazy
from pickcrate.text.surrogates import read_json
from pickcrate.values.claims import Aspect, Claim, Claimant, Rights
from pickcrate.values.licences import licence_name
from pickcrate.values.reference import fold

if TYPE_CHECKING:
    from selectolax.lexbor import LexborHTMLParser, LexborNode

_ABOUT_IMAGES = frozenset(("noimageindex", "noimageai", "noai"))
_ABOUT_THIS_FILE = _ABOUT_IMAGES | {"noindex", "none"}
_OF_RIGHTS = frozenset(("x-robots-tag", "tdm-reservation", "tdm-policy"))
_NOTHING = Rights()
_MOST_ELEMENTS = 2_000
_MOST_NODES = 400
_MOST_LEVELS = 5
_LONGEST_CREDIT = 160
_KIND = "ImageObject"
"""what schema.org calls a picture"""

_LICENCE_LINKS = (
    "a[rel~=license i][href], a[href*='creativecommons.org/licenses/'], a[href*='creativecommons.org/publicdomain/']"
)
_CREDIT_MARKS = (
    "[class*=credit i], [class*=copyright i], [class*=photographer i], [class*=attribution i], [itemprop=creditText], "
    "figcaption cite, figcaption small, [property='cc:attributionName']"
)
_CREDIT_ATTRIBUTES = ("data-credit", "data-credits", "data-photographer", "data-copyright", "data-attribution")
_CREDITED = f"img[src]:is({', '.join(f'[{name}]' for name in _CREDIT_ATTRIBUTES)})"
_OF_CREDIT = frozenset(
    "photographer photographers credit credits creditline copyright attribution byline holder rightsholder "
    "fotograf fotografin photographe fotógrafo fotógrafa fotografo fotografa fotograaf fotografka valokuvaaja "
    "fényképész fotoğrafçı фотограф φωτογράφος 写真提供 撮影 撮影者 摄影 摄影师 攝影 사진작가 צלם المصور "
    "bildnachweis bildquelle bildrechte bildautor crédit crédits crédito créditos".split()
)
_OF_PICTURES = frozenset("photo photos photograph image picture foto by line text notice name rights".split())
"""labels of fields that name who made the picture, and what else may stand in them: "Photo credit", "Photo by" """

_AUTHORS = frozenset("author creator autor auteur autore urheber artist".split())
_OF_AUTHORS = frozenset("name names display dc dcterms".split())
"""labels that do where another field is the picture's licence: without it they may name who made the thing"""

_OF_OWNERS = frozenset(("holder", "rightsholder", "copyright"))
_OF_LICENCE = frozenset(
    "licence license licensing rights lizenz licencia licenza usage terms condition conditions status reuse "
    "userestrict accesscondition accessrights".split()
)
"""labels of fields that may name a licence: they count if they do"""

_CREATIVE_COMMONS = "CC "
_PUBLIC_DOMAIN = frozenset(("public", "domain"))
_FREE = "public domain"
_SAID_TO_BE_FREE = lazy(r"(?:^|[.;:,(\[|–—-])\s*public domain\s*(?:$|[.;,)\]|–—])", re.IGNORECASE)
"""said by itself, and not of what a text tells: "it entered the public domain" """

_YES = frozenset(("true", "yes", "1"))
_LICENCE_METADATA = ("dcterms.license", "dc.license", "dc.rights.license", "dcterms.rights", "dc.rights")
"""DCMI Metadata Terms, as HTML metadata has them"""

_END = r"([^|;\n\u00b7]{2,120}?)(?=\s*(?:[|;\n\u00b7]|\.(?:\s|$)|\)|\]|,?\s*\b(?:CC\b|Creative Commons)|$))"
_LEADS = (
    r"photo(?:graph(?:y|er|ed|e|ie)?|s)?(?:\s+credits?)?", r"image(?:\s+credits?)?", r"picture(?:\s+credits?)?",
    r"credits?", r"courtesy(?:\s+of)?", r"fotos?", r"fotogra[fp]\w{0,4}", r"fotógraf\w{0,2}", r"fotoğraf(?:çı)?",
    r"fot\.?", r"bild(?:nachweis|quelle|rechte|autor|källa)?", r"aufnahme", r"urheber(?:in)?",
    r"crédits?(?:\s+(?:photos?|images?))?", r"créditos?(?:\s+(?:da\s+|de\s+la\s+)?fotos?)?",
    r"credit[io](?:\s+foto)?", r"cortesía\s+de", r"(?:per\s+)?gentile\s+concessione\s+di",
    r"(?:valo)?kuv(?:at?|aaja)", r"zdjęci[ea]", r"autor\s+(?:zdjęcia|fotografie|foto|фото)", "fotó",
    r"фото(?:граф(?:ия)?|графія)?", "світлина", "снимка", r"φωτ(?:ό|ογραφία|ογράφος)", "צילום", "تصوير",
    r"写真(?:提供)?", "撮影", "画像提供", "提供", "摄影", "摄", "图片来源", "圖片來源", r"사진(?:\s?제공)?",
)  # fmt: skip
"""what stands before the name of who made a picture, in some thirty languages"""

_PHOTO_BY = lazy(
    rf"(?:^|(?<=[\s(\[|/.,;]))(?:{'|'.join(_LEADS)})"
    r"\s*(?:[:\uff1a]\s*(?:\u00a9\s*)?|\sby\s+|\s(?:von|de|di|par|por|van|av|af)\s+(?-i:(?=[^\W\d_a-zß-ÿ]))|"
    r"(?<=of)\s+|(?<=cortesía de)\s+|(?<=concessione di)\s+)" + _END,
    re.IGNORECASE,
)
_WORK_BY = lazy(
    r"\bby\s+([^,;|()\[\]\n]{2,80}?)\s*[,/(\[]?\s*(?:(?:is\s+)?licen[sc]ed\s+|used\s+)?(?:under\s+)?(?:an?\s+)?(?=CC\b)",
    re.IGNORECASE,
)
"""who made what a licence of Creative Commons stands behind: "Red Delta by Ino Vale, CC BY 4.0" """

_YEARS = r"(?:(?:19|20)\d\d(?:\s*[-\u2013]\s*(?:19|20)?\d\d)?,?\s*)?"
_COPYRIGHT = lazy(rf"(?:\u00a9|\(c\)(?=\s)|\bcopyright(?:\s+\u00a9)?)\s*{_YEARS}(?:by\s+)?" + _END, re.IGNORECASE)
_OF_TERMS = (("license", Aspect.LICENCE), ("acquireLicensePage", Aspect.TERMS), ("usageInfo", Aspect.TERMS))
_WORD = lazy(r"[^\W\d_]+")
_SCOPE = lazy(r"\s*([A-Za-z0-9_-]+)\s*:\s*(.*)", re.DOTALL)
_WITH_VALUES = frozenset(("unavailable_after", "max-snippet", "max-image-preview", "max-video-preview"))


def rights_of_answer(fields: Mapping[str, str], robot: str) -> Rights:
    """Return what the header fields of an answer say of the file that came with it."""
    if _OF_RIGHTS.isdisjoint(fields):  # as of most
        return _NOTHING
    bar = _directive(fields.get("x-robots-tag", "").splitlines(), robot, _ABOUT_THIS_FILE)
    return Rights(bar, _reservation(fields.get("tdm-reservation", ""), fields.get("tdm-policy", "")))


def rights_on_page(tree: "LexborHTMLParser", base: str, fields: Mapping[str, str], robot: str) -> Rights:
    """Return what a page and the header fields that it came with say of the page's pictures.

    A licence is that of the page's one licence link (HTML standard, 4.6.7.11); with several it is not clear whose.
    """
    said: dict[str, list[str]] = {}
    for element in tree.css("meta[name][content]"):
        name = (element.attributes.get("name") or "").strip().lower()
        said.setdefault(name, []).append(element.attributes.get("content") or "")
    lines = [*said.get("robots", []), *said.get(robot, []), *fields.get("x-robots-tag", "").splitlines()]
    reservation = _reservation(fields.get("tdm-reservation", ""), fields.get("tdm-policy", ""))
    if not reservation:
        reservation = _reservation(_first(said, "tdm-reservation"), _first(said, "tdm-policy"))
    links = tree.css("a[rel~=license i][href], area[rel~=license i][href], link[rel~=license i][href]")
    licences = {absolute(link.attributes.get("href") or "", base) for link in links} - {None}
    licence = licences.pop() if len(licences) == 1 else None
    claims = (Claim(Aspect.LICENCE, licence, Claimant.PAGE, "its one link to a licence"),) if licence else ()
    stated = ((name, text) for name in _LICENCE_METADATA for text in said.get(name, []) if is_licence(text))
    if not claims and (metadata := next(stated, None)) is not None:
        claims = (Claim(Aspect.LICENCE, fold(metadata[1]), Claimant.PAGE, metadata[0]),)
    return Rights(_directive(lines, robot, _ABOUT_IMAGES), reservation, claims)


def rights_of_pictures(tree: "LexborHTMLParser", text: str, base: str) -> dict[str, Rights]:
    """Return what a page, ``text`` and its ``tree``, says of single pictures, by their addresses.

    Its data first, JSON-LD, microdata and RDFa (schema.org: ImageObject with ``contentUrl``, ``url`` or
    ``thumbnailUrl``); then what stands beside a picture, in the part of the page that has no other: a link to a licence
    (``rel=license``, or to Creative Commons), and what is marked as its credit.
    """
    found: dict[str, list[Claim]] = {}
    if _KIND in text:  # asking the tree takes ten times as long
        for node in itertools.chain(_in_json(tree), _in_markup(tree)):
            _take_picture(node, base, found)
    for url, claim in _beside(tree, base):
        found.setdefault(url, []).append(claim)
    return {url: Rights(claims=tuple(claims)) for url, claims in found.items()}


def _in_json(tree: "LexborHTMLParser") -> Iterator[dict[str, Any]]:
    """Yield the pictures that JSON-LD describes."""
    for script in tree.css('script[type="application/ld+json" i]'):
        text = script.text()
        if _KIND not in text:
            continue
        try:
            waiting: list[Any] = [read_json(text)]
        except (ValueError, RecursionError):
            continue
        while waiting:
            node = waiting.pop()
            if isinstance(node, list):
                waiting.extend(node)
            elif isinstance(node, dict):
                waiting.extend(node.values())
                if _KIND in _texts(node.get("@type")):
                    yield node


def _in_markup(tree: "LexborHTMLParser") -> Iterator[dict[str, Any]]:
    """Yield the pictures that microdata (HTML standard, 5.2) and RDFa (Lite 1.1) describe."""
    elements = tree.css(f'[itemtype*="{_KIND}"], [typeof~="{_KIND}"], [typeof~="schema:{_KIND}"]')
    for element in elements[:_MOST_ELEMENTS]:
        said: dict[str, Any] = {}
        for node in itertools.islice(element.traverse(), _MOST_NODES):
            names = node.attributes.get("itemprop") or node.attributes.get("property")
            if names:
                known = (node.attributes.get(name) for name in ("content", "href", "src", "resource"))
                value = next((one for one in known if one), None) or node.text()
                for name in names.split():
                    said.setdefault(name.rpartition(":")[2], value)
        yield said


def _take_picture(node: dict[str, Any], base: str, found: dict[str, list[Claim]]) -> None:
    claims: list[Claim] = []
    for name in ("creditText", "creator", "author", "copyrightNotice", "copyrightHolder"):
        if texts := _texts(node.get(name)):
            claims.append(Claim(Aspect.CREDIT, fold(", ".join(texts)), Claimant.DATA, name))
            break
    for name, aspect in (
        ("license", Aspect.LICENCE),
        ("acquireLicensePage", Aspect.TERMS),
        ("usageInfo", Aspect.TERMS),
    ):
        if texts := _texts(node.get(name)):
            is_address = aspect is Aspect.TERMS or "/" in texts[0]
            text = absolute(texts[0], base) if is_address else fold(texts[0])
            claims += [Claim(aspect, text, Claimant.DATA, name)] if text else []
    for raw in (text for name in ("contentUrl", "url", "image", "thumbnailUrl") for text in _texts(node.get(name))):
        if claims and (url := absolute(raw, base)) is not None and url not in found:
            found[url] = claims


def _beside(tree: "LexborHTMLParser", base: str) -> Iterator[tuple[str, Claim]]:
    """Yield what stands beside a picture in a part of the page that shows no other, with the picture's address."""
    for element in tree.css(_LICENCE_LINKS)[:_MOST_ELEMENTS]:
        url = absolute(element.attributes.get("href") or "", base)
        if url is not None and (picture := _sole_picture(element, base)) is not None:
            yield picture, Claim(Aspect.LICENCE, url, Claimant.BESIDE, "a link to its licence")
    for element in tree.css(_CREDIT_MARKS)[:_MOST_ELEMENTS]:
        text = fold(element.text())
        if text and len(text) <= _LONGEST_CREDIT and (picture := _sole_picture(element, base)) is not None:
            yield picture, Claim(Aspect.CREDIT, _without_lead(text), Claimant.BESIDE, "marked as its credit")
    for element in tree.css(_CREDITED)[:_MOST_ELEMENTS]:
        attributes = element.attributes
        url = absolute(attributes.get("src") or "", base)
        for name in _CREDIT_ATTRIBUTES:
            text = fold(attributes.get(name))
            if 0 < len(text) <= _LONGEST_CREDIT and url is not None:
                yield url, Claim(Aspect.CREDIT, _without_lead(text), Claimant.BESIDE, name)


def _sole_picture(element: "LexborNode", base: str) -> str | None:
    """Return the one picture of the smallest part around an element that has any; None if it has several."""
    part = element.parent
    for _ in range(_MOST_LEVELS):
        if part is None or part.tag in {"body", "html", "main", None}:
            return None
        found: set[str] = set()
        for count, node in enumerate(part.traverse()):
            if count > _MOST_NODES or len(found) > 1:
                return None
            if node.tag == "img" and (raw := node.attributes.get("src") or node.attributes.get("data-src")):
                found.add(raw)
        if found:
            return absolute(found.pop(), base) if len(found) == 1 else None
        part = part.parent
    return None


def claims_of_caption(caption: str) -> tuple[Claim, ...]:
    """Return what a caption says outright: whose picture it is, and under which licence."""
    claims: list[Claim] = []
    for pattern in (_PHOTO_BY, _COPYRIGHT, _WORK_BY):
        match = pattern.search(caption) if caption else None
        text = match[1].strip(" .,;:|)]") if match is not None else ""
        if match is not None and any(map(str.isalpha, text)):  # "Images: 12" counts them
            claims.append(
                Claim(Aspect.CREDIT, text, Claimant.CAPTION, match[0][: match.start(1) - match.start()].strip())
            )
            break
    if caption and (name := licence_name(caption)) != caption and name:
        claims.append(Claim(Aspect.LICENCE, name, Claimant.CAPTION))
    elif _SAID_TO_BE_FREE.search(caption) is not None:
        claims.append(Claim(Aspect.LICENCE, _FREE, Claimant.CAPTION))
    return tuple(claims)


def claims_of_fields(fields: Iterable[tuple[str, str]], by: Claimant = Claimant.ITEM) -> tuple[Claim, ...]:
    """Return what the fields of an item say of its picture: by their labels, whose it is, and under which licence.

    A field that is for a licence and names none that is known says whose it is at most.
    """
    claims, owners, authors, free = list[Claim](), list[Claim](), list[Claim](), list[Claim]()
    for label, said in fields:
        words = words_of(label)
        if words & _OF_LICENCE and is_licence(said):
            claims.append(Claim(Aspect.LICENCE, said, by, label))
        elif words >= _PUBLIC_DOMAIN and said.casefold() in _YES:
            free.append(Claim(Aspect.LICENCE, _FREE, by, label))
        elif _names_credit(words) and _may_be_credit(said):
            (owners if words & _OF_OWNERS else claims).append(Claim(Aspect.CREDIT, _without_lead(said), by, label))
        elif _names_author(words):
            authors.append(Claim(Aspect.CREDIT, said, by, label))
    claims += (*owners, *free)  # a credit line says better who is to be named, and a licence what is free
    has_licence = any(claim.aspect is Aspect.LICENCE for claim in claims)
    return (*claims, *authors) if has_licence else tuple(claims)


def aspect_of_label(label: str) -> Aspect | None:
    """Return what a field is about by its label; None if it is about neither a licence nor who is to be named."""
    words = words_of(label)
    if _names_credit(words) or _names_author(words):
        return Aspect.CREDIT
    return Aspect.LICENCE if words & _OF_LICENCE or words >= _PUBLIC_DOMAIN else None


def _names_credit(words: frozenset[str]) -> bool:
    return words <= _OF_CREDIT | _OF_PICTURES and bool(words & _OF_CREDIT or {"by"} < words)


def _names_author(words: frozenset[str]) -> bool:
    return words <= _AUTHORS | _OF_AUTHORS and bool(words & _AUTHORS)


def _may_be_credit(said: str) -> bool:
    return len(said) <= _LONGEST_CREDIT and _WORD.search(said) is not None and not is_web(said)


def is_licence(said: str) -> bool:
    """Tell whether a text or an address is that of a known licence."""
    name = licence_name(said)
    return bool(name) and (name != said or name.startswith(_CREATIVE_COMMONS))


def claims_of_file(fields: Iterable[Embedded]) -> tuple[Claim, ...]:
    """Return what a picture's own file says of its use: its credit, its licence, where its terms are."""
    known = {field.name: field.text for field in reversed([*fields])}
    claims: list[Claim] = []
    if (name := next((name for name in CREDITS if name in known), None)) is not None:
        claims.append(Claim(Aspect.CREDIT, _without_lead(fold(known[name])), Claimant.FILE, name))
    for name in (*LICENCES, "XMP dc:rights", "IPTC Copyright Notice", "Exif Copyright"):
        said = known.get(name, "")
        licence = licence_in(said) or (licence_name(said) if said and licence_name(said) != said else "")
        if licence:
            claims.append(Claim(Aspect.LICENCE, licence, Claimant.FILE, name))
            break
    if (name := next((name for name in TERMS if is_web(known.get(name, ""))), None)) is not None:
        claims.append(Claim(Aspect.TERMS, known[name], Claimant.FILE, name))
    return tuple(claims)


def with_file(rights: Rights, fields: Iterable[Embedded]) -> Rights:
    """Return rights with what the picture's own file says."""
    return replace(rights, claims=(*claims_of_file(fields), *rights.claims))


def _without_lead(text: str) -> str:
    """Return a credit without the words that say that it is one."""
    match = _PHOTO_BY.match(text) or _COPYRIGHT.match(text)
    return match[1].strip(" .,;:|()[]") if match is not None else text


def _texts(value: object) -> list[str]:
    """Return the texts that a property holds: itself, those of a list, the name or the address of a thing."""
    if isinstance(value, str):
        return [value.strip()] if value.strip() else []
    if isinstance(value, list):
        return [text for item in value[:20] for text in _texts(item)]
    if isinstance(value, dict):
        return _texts(value.get("name") or value.get("@id") or value.get("url"))
    return []


def _first(said: Mapping[str, list[str]], name: str) -> str:
    return next(iter(said.get(name, [])), "")


def _directive(lines: Iterable[str], robot: str, wanted: frozenset[str]) -> str:
    """Return the first of ``wanted`` that is said to all robots or to ours; a robot's name counts to its line's end."""
    for line in lines:
        is_for_us = True
        for part in line.split(","):
            scope = _SCOPE.fullmatch(part)
            if scope is not None and scope[1].lower() not in _WITH_VALUES:
                is_for_us = scope[1].lower() == robot
            directive = (scope[2] if scope is not None else part).strip().lower()
            if is_for_us and directive in wanted:
                return directive
    return ""


def _reservation(value: str, policy: str) -> str:
    return f"reserved {policy.strip()}".strip() if value.strip() == "1" else ""
