"""What was passed over: where a page mentions an address that none of its pictures has, and why it is none.

Only looked for when somebody asks about that address. It is judged by the finders' own rules.
"""

import itertools
import re
from collections.abc import Iterator

from selectolax.lexbor import LexborNode

from pickcrate.addresses.url import claims_no_image, image_type, is_template
from pickcrate.finders.data.literals import EXTENSION
from pickcrate.finders.style.css import StyleSheet, unapplied
from pickcrate.text.lazyre import lazy
from pickcrate.values.findings import PassedOver, Passing
from pickcrate.values.foundin import FoundIn
from pickcrate.values.page import Page
from pickcrate.values.reference import Reference

_MOST = 30
_MOST_READ = 5_000_000
_LONGEST = 200
_BEFORE = 60
_COMMENT = lazy(r"<!--(?:(?!-->).)*+", re.DOTALL)
_LEADING_ELSEWHERE = frozenset(("a", "area", "form", "button"))


def passed_over(page: Page, sought: str) -> list[PassedOver]:
    """Return where a page mentions a part of an address, and why that is no picture; not in its linked sheets."""
    found = list(itertools.islice(_in_elements(page, sought), _MOST))
    for comment in _COMMENT.finditer(page.text[:_MOST_READ]):
        if len(found) < _MOST and (at := comment[0].find(sought)) >= 0:
            found.append(_mention(page, Passing.COMMENT, comment[0], at, "", comment.start()))
    return found


def passed_in_sheet(sheet: StyleSheet, sought: str) -> list[PassedOver]:
    """Return where a style sheet mentions a part of an address, and why that is no picture of its page."""
    if sought not in sheet.text:
        return []
    found = [
        PassedOver(Passing.FONT if is_font else Passing.UNAPPLIED, sheet.where.element or sheet.base, said, selector)
        for said, selector, is_font in unapplied(sheet, sought)
    ]
    if not found:
        at = sheet.text.find(sought)
        kind = Passing.COMMENT if sheet.text.rfind("/*", 0, at) > sheet.text.rfind("*/", 0, at) else Passing.OTHER_KIND
        found = [PassedOver(kind, sheet.where.element or sheet.base, _around(sheet.text, at))]
    return found[:_MOST]


def _in_elements(page: Page, sought: str) -> Iterator[PassedOver]:
    for node in page.tree.css("*"):
        for name, value in node.attributes.items():
            if value and sought in value:
                yield _in_attribute(page, node, name, value, value.find(sought))
        inner = node.first_child if node.tag in {"script", "style"} else None
        text = (inner.text_content or "") if inner is not None else ""
        if (at := text.find(sought)) < 0:
            continue
        if node.tag == "style":
            where = Reference("", "", page.address, FoundIn.CSS, "style", "", 0)
            yield from passed_in_sheet(StyleSheet(text, page.base, page, where), sought)
        else:
            kind = Passing.PIECE if EXTENSION.search(text, at) else Passing.NO_EXTENSION
            yield _mention(page, kind, text, at, "script")


def _in_attribute(page: Page, node: LexborNode, name: str, value: str, at: int) -> PassedOver:
    url = page.resolve(value.strip())
    if is_template(value):
        kind = Passing.TO_BE_FILLED
    elif url is None:
        kind = Passing.NO_ADDRESS
    elif node.tag in _LEADING_ELSEWHERE and image_type(url) is None:
        kind = Passing.LEADS_ELSEWHERE
    elif claims_no_image(url):
        kind = Passing.OTHER_KIND
    elif EXTENSION.search(value) is None:
        kind = Passing.NO_EXTENSION
    elif (node.tag, name) == ("img", "src"):
        kind = Passing.PLACEHOLDER
    else:
        kind = Passing.NO_PLACE
    return _mention(page, kind, value, at, f"{node.tag} {name}")


def _mention(page: Page, kind: Passing, text: str, at: int, where: str, start: int = -1) -> PassedOver:
    said = _around(text, at)
    place = page.text.find(text[max(0, at - 20) : at + 20], max(0, start))
    return PassedOver(kind, where or page.address, said, line=page.text.count("\n", 0, place) + 1 if place >= 0 else 0)


def _around(text: str, at: int) -> str:
    return " ".join(text[max(0, at - _BEFORE) : at + _LONGEST - _BEFORE].split())
