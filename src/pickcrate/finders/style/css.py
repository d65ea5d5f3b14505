"""Pictures in style: ``url()``, ``image-set()`` and ``src()`` in sheets, ``style`` elements and attributes.

CSS Syntax 3, CSS Images 4, CSS Values 4, CSS Nesting 1. A quick pass splits a sheet into statements and blocks;
only statements that can hold an address are parsed, since sheets are large and hold few.
"""

import re
from collections.abc import Iterator

from msgspec import Struct, field
from msgspec.structs import replace
from selectolax.lexbor import LexborNode

from pickcrate.addresses.ranks import SMALL, names_any, size_named
from pickcrate.addresses.url import claims_no_image, file_parts, path_of
from pickcrate.elements.selectors import readable
from pickcrate.finders.style.effort import LONGEST_SELECTOR, USE, Effort
from pickcrate.finders.style.mediaqueries import least_density
from pickcrate.text.lazyre import lazy
from pickcrate.values.findings import Finding, Hiding, Need, NeedKind
from pickcrate.values.foundin import FoundIn
from pickcrate.values.page import Page
from pickcrate.values.reference import Reference, Role, fold

# Comments, strings, unquoted url(), escapes: all that may hold a brace or a semicolon that means nothing.
_TOKEN = lazy(
    r"/\*.*?(?:\*/|\Z)|\"(?:[^\"\\\n]++|\\.)*+\"?|'(?:[^'\\\n]++|\\.)*+'?"
    r"|(?i:url)\(\s*+(?![\"'])(?:[^)\\]++|\\.)*+\)?|\\.|[{};]",
    re.DOTALL,
)
_HIDES = lazy(r"(?:^|[\s;{/])(?:display\s*:\s*none|visibility\s*:\s*hidden)\b", re.IGNORECASE)
_INTERESTING = lazy(
    r"url\(|src\(|image-set\(|image\(|@import|display\s*:\s*none|visibility\s*:\s*hidden|\\", re.IGNORECASE
)
_ALWAYS = ("@layer", "@media screen", "@media all", "@supports")
_MOST_HIDDEN = 5_000
_IMPORT = lazy(r"\s*+@import\b", re.IGNORECASE)
_PROPERTY = lazy(r"\s*+([-\w\\]++)\s*+:")
_NOT_IN_MARKUP = lazy(
    r"::?(?:before|after|first-line|first-letter|selection|placeholder|marker|backdrop|file-selector-button)\b"
    r"|::[-\w]+(?:\([^()]*\))?"
    r"|:(?:hover|focus-within|focus-visible|focus|active|visited|link|any-link|target|checked|disabled|enabled|invalid"
    r"|valid|open|fullscreen|autofill)\b",
    re.IGNORECASE,
)
_FONT_BLOCKS = ("@font-face", "@namespace", "@font-palette-values", "@font-feature-values")
_NO_PICTURE_PROPERTIES = frozenset(("behavior", "-ms-behavior", "-moz-binding"))
_DEEPEST = 64
_MOST_SELECTED = 50
_LONGEST_SAID = 2_000


class StyleSheet(Struct, frozen=True):
    """One sheet's text with its base URL, and the page that it dresses."""

    text: str
    base: str
    page: Page
    where: Reference
    """a reference to copy from: what is known of the place that the sheet stands in or is linked from"""
    effort: Effort = field(default_factory=Effort)
    """shared by all sheets of the page"""
    scope: int | None = None
    """the one of the page's scopes that it stands in, and is for; 0 for the document, None if it is for all"""

    @property
    def is_inside(self) -> bool:
        """Whether it stands in the page itself."""
        return self.base == self.page.base

    def select(self, selector: str) -> list[LexborNode]:
        """Return the elements that a selector of this sheet selects (CSS Scoping 1, 3.1: in its own tree only).

        Raises Lexbor's error for a selector that it cannot read.
        """
        selected, scopes = self.page.tree.css(readable(selector)), self.page.scopes
        if not scopes or self.scope is None:
            return selected
        return [node for node in selected if scopes.get(node.mem_id, 0) == self.scope]

    def resolve(self, raw: str) -> str | None:
        """Return ``raw`` as an absolute address: in the page itself it means what it does anywhere on the page."""
        return self.page.resolve(raw) if self.is_inside else self.page.resolve_from(raw, self.base)


def find_in_sheet(sheet: StyleSheet, numbers: Iterator[int]) -> Iterator[Finding]:
    """Yield the pictures of a sheet whose rules can apply to something in its page, and the sheets it imports.

    What it keeps from being shown comes as well.
    """
    if _INTERESTING.search(sheet.text) is None:
        return
    screens = _Screens()
    held: dict[str, list[Reference]] = {}
    for statement, blocks in _statements(sheet.text):
        if _IMPORT.match(statement):
            yield from _imports(statement, sheet)
        elif not any(block.lower().startswith(_FONT_BLOCKS) for block in blocks):
            found = list(_pictures(statement, sheet, numbers))
            if found and (selected := _selected(blocks, sheet)) is not None:
                placed = [_placed(one, blocks, selected) for one in found]
                if found[0].attribute.startswith("--"):
                    held.setdefault(found[0].attribute, []).extend(placed)
                else:
                    yield from (screens.placed(one, _least_density(blocks)) for one in placed)
            elif not found and blocks and sheet.effort.hiding_rules > 0 and _HIDES.search(statement):
                sheet.effort.hiding_rules -= 1
                yield from _hiding(blocks, sheet)
    if held:
        yield from _where_used(held, sheet)


def _where_used(held: dict[str, list[Reference]], sheet: StyleSheet) -> Iterator[Reference]:
    """Yield the pictures of custom properties, each where it is first used (CSS Custom Properties 1, 3).

    Those that attributes of the page use are found there, if the sheet stands in the page; what nothing here uses may
    be another sheet's, or a script's.
    """
    used: set[str] = set()
    for statement, blocks in _statements(sheet.text, USE):
        names = {name for name in USE.findall(statement) if name in held and name not in used}
        selected = _selected(blocks, sheet) if names else None
        if selected is None:
            continue
        used |= names
        for one in (one for name in sorted(names) for one in held[name]):
            yield _placed(one, blocks, selected)
    users = sheet.effort.users(sheet.page)
    for name in (name for name in held if name not in used and not (sheet.is_inside and name in users)):
        anchors = tuple(users.get(name, ()))
        yield from (replace(one, anchors=anchors or one.anchors) for one in held[name])


def _placed(found: Reference, blocks: tuple[str, ...], selected: tuple[LexborNode, ...]) -> Reference:
    """Return a reference at what its rule selects, with what that says of itself to those who do not see it."""
    words = found.words
    if len(selected) == 1:
        attributes = selected[0].attributes
        words = replace(words, alt=fold(attributes.get("aria-label")), title=fold(attributes.get("title")))
    anchors = tuple(node.mem_id for node in selected)
    return replace(found, element=_said(blocks) or found.element, anchors=anchors, words=words)


def _said(blocks: tuple[str, ...]) -> str:
    """Return the selector of the innermost rule as it is shown; empty outside of all blocks."""
    selectors = (block for block in reversed(blocks) if not block.startswith("@"))
    return " ".join(next(selectors, blocks[-1]).split())[:80] if blocks else ""


def _least_density(blocks: tuple[str, ...]) -> float | None:
    """Return the pixels for each CSS pixel that the conditions around a rule ask a screen for."""
    asked = (least_density(block) for block in blocks if block.startswith("@media"))
    return next((density for density in asked if density is not None), None)


def names_used(style: str) -> list[str]:
    """Return the custom properties whose values a declaration, or several, take."""
    return list(dict.fromkeys(USE.findall(style)))


def held_in(sheet: StyleSheet, numbers: Iterator[int]) -> Iterator[Reference]:
    """Yield the pictures that the custom properties of a sheet hold; each has the property's name as its attribute."""
    for statement, _ in _statements(sheet.text):
        if statement.lstrip().startswith("--"):
            yield from _pictures(statement, sheet, numbers)


class _Screens:
    """The rules of one sheet that give the same elements one picture in several sizes, a screen's each.

    Those are of one selector and one property, and lie in one folder under names that only say a size, or are for
    screens with more pixels than others.
    """

    def __init__(self) -> None:
        self._first: dict[tuple[str, str, str], Reference] = {}
        self._plain: dict[tuple[str, str], Reference] = {}

    def placed(self, reference: Reference, density: float | None) -> Reference:
        """Return a reference as one to a size of the picture that the sheet named first, if it is that.

        ``density`` is what its rule asks of a screen: pixels for each CSS pixel.
        """
        plain = self._plain.get((reference.element, reference.attribute))
        if density is None:
            self._plain[reference.element, reference.attribute] = reference
        elif plain is not None and reference.density is None:
            return replace(reference, cluster=plain.cluster, role=Role.SIZE, density=density)
        folder, stem = path_of(reference.url).rpartition("/")[0], file_parts(reference.url)[0]
        if not names_any(stem):
            return reference
        first = self._first.setdefault((reference.element, reference.attribute, folder), reference)
        if first is reference or first.url == reference.url:
            return reference
        size, known = size_named(stem), size_named(file_parts(first.url)[0])
        if size > known:
            return replace(reference, cluster=first.cluster, role=Role.SIZE, rank=size)
        return replace(reference, cluster=first.cluster, role=Role.LAZY, rank=SMALL)


def unapplied(sheet: StyleSheet, sought: str) -> Iterator[tuple[str, str, bool]]:
    """Yield declarations with ``sought`` that are passed over: each with its selector, and whether it is of a font."""
    for statement, blocks in _statements(sheet.text):
        if sought not in statement:
            continue
        is_font = any(block.lower().startswith(_FONT_BLOCKS) for block in blocks)
        if is_font or _selected(blocks, sheet) is None:
            yield " ".join(statement.split())[:_LONGEST_SAID], _said(blocks), is_font


def find_in_declarations(sheet: StyleSheet, numbers: Iterator[int]) -> Iterator[Reference]:
    """Yield the pictures of a ``style`` attribute: declarations without a rule around them."""
    for statement, _ in _statements(sheet.text):
        yield from _pictures(statement, sheet, numbers)


def _statements(text: str, wanted: re.Pattern[str] = _INTERESTING) -> Iterator[tuple[str, tuple[str, ...]]]:
    """Yield each statement that can hold an address, with the preludes of the blocks around it; all without comments.

    Preludes come outermost first. Blocks nested deeper than _DEEPEST are not told apart from the one around them.
    """
    blocks: tuple[str, ...] = ()
    pieces: list[str] = []
    start = beyond = 0
    for token in _TOKEN.finditer(text):
        mark = token[0]
        if mark[:2] == "/*":
            pieces.append(text[start : token.start()])
            start = token.end()
        if mark not in {"{", "}", ";"}:
            continue
        statement = "".join((*pieces, text[start : token.start()]))
        pieces.clear()
        start = token.end()
        if mark == "{":
            if len(blocks) < _DEEPEST:
                blocks = (*blocks, statement.strip())
            else:
                beyond += 1
            continue
        if wanted.search(statement):
            yield statement, blocks
        if mark == "}" and beyond:
            beyond -= 1
        elif mark == "}":
            blocks = blocks[:-1]
    statement = "".join((*pieces, text[start:]))
    if wanted.search(statement):
        yield statement, blocks


def _hiding(blocks: tuple[str, ...], sheet: StyleSheet) -> Iterator[Hiding]:
    """Yield what a rule hides, with all inside it; rules for print or for small screens hide nothing here."""
    conditions = [block.lower() for block in blocks if block.startswith("@")]
    selector = blocks[-1]
    # A state (:hover) or a part (::before) is not the element itself.
    if any(not c.startswith(_ALWAYS) or "(" in c for c in conditions) or len(blocks) - len(conditions) != 1:
        return
    plain = ",".join(part for part in selector.split(",") if _NOT_IN_MARKUP.search(part) is None)
    if not plain.strip() or not sheet.effort.allows(plain, sheet.page):
        return
    anchors: set[int] = set()
    try:
        for node in sheet.select(plain):
            if node.mem_id not in anchors:  # or it lies in one that is there with all in it
                anchors.add(node.mem_id)
                anchors.update(inner.mem_id for inner in node.css("*"))
            if len(anchors) > _MOST_HIDDEN:
                break
    except Exception:  # noqa: BLE001 (Lexbor's own class for what it cannot parse varies by version)
        return
    if anchors:
        yield Hiding(frozenset(anchors))


def _imports(statement: str, sheet: StyleSheet) -> Iterator[Need]:
    """CSS Cascade 5, section 2: the first string or URL of an ``@import``, whatever its conditions."""
    from pickcrate.finders.style.cssvalues import first_address  # noqa: PLC0415 (few pages need it)

    raw = first_address(statement)
    url = sheet.resolve(raw) if raw is not None else None
    if url is not None:
        yield Need(NeedKind.SHEET, url)


def _pictures(statement: str, sheet: StyleSheet, numbers: Iterator[int]) -> Iterator[Reference]:
    """Yield the pictures of one declaration."""
    from pickcrate.finders.style.cssvalues import addresses_in  # noqa: PLC0415 (few pages need it)

    prefix = _PROPERTY.match(statement)
    name = prefix[1].lower() if prefix else ""
    if name in _NO_PICTURE_PROPERTIES:
        return
    value = statement[prefix.end() :] if prefix else statement
    for addresses in addresses_in(value):
        cluster = next(numbers)
        role = Role.SHOWN
        for raw, density in addresses:
            url = sheet.resolve(raw)
            if url is None or raw.startswith("#") or not raw.strip() or claims_no_image(url):
                continue
            where = replace(sheet.where, attribute=name, cluster=cluster, role=role, density=density)
            yield replace(where, url=url, raw=raw[:200], found_in=FoundIn.CSS)
            role = Role.SIZE


def _selected(blocks: tuple[str, ...], sheet: StyleSheet) -> tuple[LexborNode, ...] | None:
    """Return some of the elements that the rule around a declaration selects, in any state of them; None if none.

    Empty if that cannot be told. Pseudo-elements and states such as ``:hover`` are taken as met; so is a selector that
    we cannot read. Nested rules are unfolded as CSS Nesting 1, section 3.2 says.
    """
    selector = ""
    for prelude in blocks:
        plain = prelude
        if plain.lower().startswith(("@keyframes", "@-webkit-keyframes", "@page", "@property")):
            return ()
        if plain.startswith("@"):
            continue
        if selector and len(selector) * (1 + plain.count("&")) + len(plain) > LONGEST_SELECTOR:
            return ()  # each & would be as long as all that is around it
        if selector:
            plain = plain.replace("&", f":is({selector})") if "&" in plain else f":is({selector}) {plain}"
        selector = plain
    if not selector or len(selector) > LONGEST_SELECTOR:
        return ()
    parts = [_without_states(part) for part in selector.split(",")]
    if not sheet.effort.may_select(parts, sheet.page):
        return None
    plain = ",".join(parts)
    if not sheet.effort.allows(plain, sheet.page):
        return ()
    try:
        selected = tuple(sheet.select(plain)[:_MOST_SELECTED])
        opened = sheet.effort.opened(sheet.page) if not selected else None
        is_inside = opened and sheet.effort.allows(plain, sheet.page) and opened.css_first(readable(plain))
    except Exception:  # noqa: BLE001 (Lexbor's own class for what it cannot parse varies by version)
        return ()
    return selected if selected or is_inside else None


def _without_states(selector: str) -> str:
    """Return one selector without pseudo-elements and states; what is left blank stands for any element."""
    bare = _NOT_IN_MARKUP.sub("", selector).strip()
    return f"{bare} *" if not bare or bare[-1] in ">+~" else bare
