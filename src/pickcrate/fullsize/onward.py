"""What one more click leads to: a link, a form, a refresh or a script on a page between a thumbnail and its original.

Only what a visitor without any intent but to see the picture would press. Forms that ask for something, sign in, buy,
or leave a word are not sent; neither is one that goes to another site.
"""

import re
from collections.abc import Iterator
from urllib.parse import urlencode

from msgspec import Struct
from selectolax.lexbor import LexborNode

from pickcrate.addresses.url import absolute, image_type, is_web, origin
from pickcrate.elements.around import inherited_by_nodes
from pickcrate.elements.words import Texts
from pickcrate.finders.data.strings import unescape
from pickcrate.read.pages.forms import NOTHING_SENT, SUBMITTING, control_kind
from pickcrate.read.pages.oembed import MEDIA_TYPE
from pickcrate.text.enlarging import says_full_size
from pickcrate.text.lazyre import lazy
from pickcrate.text.numerals import whole
from pickcrate.values.page import Page
from pickcrate.values.reference import fold

_ON = lazy(
    r"\b(?:continue|proceed|enter|skip|go on|i am|agree|accept|consent|yes|ok|weiter|fortfahren|akzeptieren|ja|"
    r"continuer|entrer|accepter|oui|continuar|entrar|aceptar|sí|continua|entra|accetta|doorgaan|verder|fortsätt|fortsæt|"
    r"fortsett|jatka|dalej|kontynuuj|pokračovat|pokračovať|tovább|folytatás|continuă|продолжить|продовжити|напред|"
    r"συνέχεια|devam|nastavi|המשך|متابعة|ادامه|lanjutkan|tiếp tục)\b|続ける|進む|继续|繼續|계속",
    re.IGNORECASE,
)
_LARGER = lazy(
    r"\b(?:original|full|all sizes|large|larger|largest|bigger|hi-?res|high[- ]res\w*|maximum|download|enlarge|zoom|"
    r"originalbild|vollbild|taille réelle|tamaño completo|full[- ]?size)\b|\d{3,5}\s*[x×]\s*\d{3,5}",
    re.IGNORECASE,
)
_TO_SEE = lazy(r"\b(?:view|show|see|open|picture|photo|image|click here|bild|voir|ver|vedi|bekijk)\b", re.IGNORECASE)
_NOT_OURS = lazy(
    r"\b(?:cart|basket|buy|order|checkout|price|log ?in|log ?out|sign ?(?:in|up|out)|register|subscribe|newsletter|"
    r"comment|delete|remove|report|vote|like|follow|share|search|upload|contact|donate|edit|print|cancel|no|decline)\b",
    re.IGNORECASE,
)
_FRAME = frozenset(("nav", "header", "footer", "aside"))
"""elements that go around what a page is about"""

_REFRESH = lazy(r"\s*(\d*)(?:\.\d*)?\s*[;,]?\s*(?:url\s*=\s*)?[\"']?([^\"']*)", re.IGNORECASE)
_LOCATION = lazy(
    r"\blocation(?:\.href)?\s*(?:=|\.(?:replace|assign)\()\s*([\"'])((?:\\.|(?!\1).){1,2000})\1|\blocation\.(reload)\(",
)
_COOKIE = lazy(r"document\.cookie\s*=\s*([\"'])((?:\\.|(?!\1).){1,2000})\1")
_TIMER = lazy(r"setTimeout\(.{0,400}?,\s*(\d{2,6})\s*\)", re.DOTALL)
_ASKING = frozenset(
    "text password email search file tel number url date range color month week time datetime-local".split()
)
_LONGEST_LABEL = 60
_LONGEST_SCRIPT = 20_000
_MOST_STEPS = 2
_MOST_FORMS = 100
"""that may be the way on: on a page with more, each is beside something in a list"""


class Lead(Struct, frozen=True):
    """One click: where it leads, a form's fields if they are posted, cookies a script sets first, seconds to wait."""

    url: str
    form: str = ""
    cookies: tuple[str, ...] = ()
    delay: float = 0.0
    is_larger: bool = False
    """its words promise a larger version, rather than a way on"""


def onward(page: Page, refresh: str = "") -> list[Lead]:
    """Return the likeliest clicks on a page, best first; ``refresh`` is the response's ``Refresh`` field."""
    ranked: list[tuple[int, Lead]] = [(0, step) for step in _refreshes(page, refresh)]
    ranked += _forms(page)
    ranked += _links(page)
    ranked += [(1, step) for step in _embeds(page)]
    ranked += [(2, step) for step in _scripts(page)]
    ranked.sort(key=lambda entry: entry[0])
    unique = dict.fromkeys(step for _, step in ranked)
    return list(unique)[:_MOST_STEPS]


def _refreshes(page: Page, field: str) -> Iterator[Lead]:
    """HTML standard, 4.2.5.3: the shared declarative refresh steps."""
    metas = (node.attributes for node in page.tree.css("meta[http-equiv]"))
    contents = [
        attributes.get("content") or ""
        for attributes in metas
        if (attributes.get("http-equiv") or "").strip().lower() == "refresh"
    ]
    for content in filter(None, (field, *contents)):
        match = _REFRESH.match(content)
        url = absolute(match[2].strip(), page.base) if match and match[2].strip() else None
        if match and url is not None and is_web(url):
            yield Lead(url, delay=float(whole(match[1]) or 0))


def _embeds(page: Page) -> Iterator[Lead]:
    """Yield where a page's site tells which picture it is about (oEmbed 1.0, section 4: discovery)."""
    for node in page.tree.css(f'link[type="{MEDIA_TYPE}"]'):
        url = absolute(node.attributes.get("href") or "", page.base)
        if url is not None and is_web(url):
            yield Lead(url, is_larger=True)


def _forms(page: Page) -> Iterator[tuple[int, Lead]]:
    """Yield the forms that ask for nothing: hidden fields, a box to tick, a button."""
    for form in page.tree.css("form")[:_MOST_FORMS]:
        fields = _fields(form)
        attributes = form.attributes
        url = absolute(attributes.get("action") or "", page.base)
        label = fold(form.text(separator=" ")) + " " + " ".join(_button_words(form))
        if fields is None or url is None or origin(url) != origin(page.address) or _NOT_OURS.search(label):
            continue
        rank = 1 if _ON.search(label) or _LARGER.search(label) or _TO_SEE.search(label) else 4
        encoded = urlencode(fields)
        if (attributes.get("method") or "").strip().lower() == "post":
            yield rank, Lead(url, form=encoded or NOTHING_SENT)
        else:
            yield rank, Lead(f"{url.partition('?')[0]}?{encoded}" if encoded else url)


def _fields(form: LexborNode) -> list[tuple[str, str]] | None:
    """Return what a form would send (HTML standard, 4.10.22.4), or None if it asks for anything."""
    fields: list[tuple[str, str]] = []
    pressed = False
    if form.css_first("select, textarea") is not None:
        return None
    for control in form.css("input, button"):
        attributes = control.attributes
        kind = control_kind(control)
        name, value = attributes.get("name") or "", attributes.get("value") or ""
        if kind in _ASKING or (kind == "radio" and "checked" not in attributes):
            return None
        if kind in SUBMITTING:
            if pressed:
                continue
            pressed = True
        elif kind in {"button", "reset"}:
            continue
        if name:
            fields.append((name, value or ("on" if kind in {"checkbox", "radio"} else "")))
    return fields


def _button_words(form: LexborNode) -> Iterator[str]:
    for control in form.css('input[type="submit"], input[type="image"], button'):
        attributes = control.attributes
        yield from filter(None, (attributes.get("value"), attributes.get("alt"), attributes.get("name")))


def _links(page: Page) -> Iterator[tuple[int, Lead]]:
    framed = inherited_by_nodes(lambda outer: True if outer.tag in _FRAME else None, otherwise=False)
    texts = Texts(len(page.text))
    for node in page.tree.css("a[href], button[onclick], input[onclick], a[onclick]"):
        if framed.of(node):
            continue
        attributes = node.attributes
        said = (texts.of(node), attributes.get("title"), attributes.get("aria-label"), attributes.get("value"))
        label = fold(" ".join(filter(None, said)))
        if not label or len(label) > _LONGEST_LABEL or _NOT_OURS.search(label):
            continue
        is_larger = _LARGER.search(label) is not None or says_full_size(label)
        if not (is_larger or _ON.search(label) or _TO_SEE.search(label)):
            continue
        rank = 1 if is_larger or _ON.search(label) else 3
        step = _clicked(node, page)
        if step is not None:
            yield rank, Lead(step.url, cookies=step.cookies, is_larger=is_larger)


def _clicked(node: LexborNode, page: Page) -> Lead | None:
    """Return where a click leads: what its handler says, else its link."""
    handler = (node.attributes.get("onclick") or "")[:_LONGEST_SCRIPT]
    href = (node.attributes.get("href") or "").strip()
    for step in _in_script(handler, page) if handler else ():
        return step
    url = absolute(href, page.base) if href and not href.startswith("#") else None
    if url is None or not is_web(url) or image_type(url) is not None:
        return None
    return Lead(url, cookies=_cookies(handler))


def _scripts(page: Page) -> Iterator[Lead]:
    for node in page.tree.css("script:not([src])"):
        text = node.text()
        if len(text) <= _LONGEST_SCRIPT and "location" in text:
            yield from _in_script(text, page)


def _in_script(text: str, page: Page) -> Iterator[Lead]:
    """Yield where a script goes, by the string literals in it, with the cookies it sets before."""
    timer = _TIMER.search(text)
    for match in _LOCATION.finditer(text):
        url = page.address if match[3] else absolute(unescape(match[2]), page.base)
        if url is not None and is_web(url):
            yield Lead(url, cookies=_cookies(text), delay=int(timer[1]) / 1000 if timer else 0.0)
            return


def _cookies(text: str) -> tuple[str, ...]:
    """Return the cookies that a script sets, as ``name=value``, without their attributes."""
    return tuple(unescape(match[2]).partition(";")[0].strip() for match in _COOKIE.finditer(text))
