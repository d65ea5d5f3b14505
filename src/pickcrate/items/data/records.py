"""What an object in data says that it is: its name, its own page, its fields.

Programs and standards wrap what they say of a thing (``{"node": …}``, ``{"attributes": …}``, ``<titleWrap>``), and
names in texts of their own (``{"rendered": …}``, one in each language): both are looked into.
"""

from collections.abc import Iterable, Iterator
from itertools import chain, islice

from selectolax.lexbor import LexborHTMLParser, LexborNode

from pickcrate.addresses.ranks import ADDRESS_WORDS, UNSAID, names_a_picture, names_a_version, rank
from pickcrate.elements.words import text_of
from pickcrate.finders.data.literals import in_markup, is_address
from pickcrate.finders.place import HEADING_SELECTOR
from pickcrate.items.data.answers import linked_as
from pickcrate.items.data.owned import rights_in
from pickcrate.items.data.picturewords import InWords, name_in_caption, words_called, words_for_picture
from pickcrate.items.data.structured import Thing
from pickcrate.items.data.texts import LONGEST_MARKUP, plain_key, plain_text, text_of_value, whole_text
from pickcrate.items.said.junk import says_nothing
from pickcrate.items.said.posts import lead_of, written_in
from pickcrate.text.headers import NAMING, words_of
from pickcrate.text.lazyre import lazy
from pickcrate.values.reference import fold

_NAMES = (
    "title",
    "titles",
    "name",
    "headline",
    "label",
    "caption",
    "heading",
    "unittitle",
    "primarytitle",
    "maintitle",
    "objecttitle",
    "displaytitle",
    "itemtitle",
    "objectname",
    "productname",
    "titleinfo",
    "titlewrap",
    "head",
    "scientificname",
    "titletext",
)
"""the best first; EAD 3, MODS 3, LIDO 1.1, TEI P5, ONIX 3 and Darwin Core have some of their own"""

_OF_PICTURE = ("alt", "alttext", "alt_text", "figdesc")
"""under which names stands what a picture shows"""

_SAYS_NAME = frozenset(("title", "name", "headline", "label"))
"""the word for a name in what says of what it is one: ``kiteName``"""

_HOW_IT_IS_SAID = frozenset(
    "display main primary full long short original preferred common page card text plain html raw local localized "
    "public label headline caption heading guess en de fr es it nl pt ja zh ru pl sv da no fi und".split()
)
"""words beside that for a name which say how it is put, or in what language (ISO 639-1): ``displayName``"""

_OF_OTHERS = frozenset(
    "file user author artist maker creator photographer owner category tag brand company host site class type first "
    "last middle nick screen image icon font template layout seller vendor collection album series department country "
    "city sub meta og alt tab menu button field group parent event domain path folder bucket container project theme "
    "region store shop publisher source provider account profile contributor editor uploader customer member team "
    "section channel list page genus family state street venue role job alias slug code key".split()
)
"""words beside that for a name which say that it is something else's"""

_LABELS, _MOST_PAIRS = ("key", "label", "name", "field", "property", "term", "attribute"), 200
"""under which names stands what a field is called, beside its ``value``"""

_NAMED_BY = ("name", "title", "label")
"""under which names stands what something that a thing names is called: ``{"artist": {"name": "Ino Hallas"}}``"""

_OF_FILES = ADDRESS_WORDS | {"file", "path", "original"}
"""what the address in an object is called if that is a picture's file"""

_DESCRIPTIONS = ("alt_description", "altdescription", "alternativetext", "description")
"""under which name stands what is shown, where nothing has a name"""

_AROUND = frozenset(
    "node item row attributes fields properties data record metadata source product entry content document entity "
    "details extras info opts options frontmatter acf dc mods did lido descriptivemetadata objectidentificationwrap "
    "providedcho aggregatedcho descriptivedetail titledetail titleelement".split()
)
"""what objects are called around all that is said of a thing"""

_ADDRESSES = (
    *("url", "href", "link", "permalink", "path", "page", "html_url", "web_url", "page_url", "post_url"),
    *("permalink_url", "isshownat", "guid"),
)
_IDENTITIES = ("self", "@id", "uri", "id")
"""under which name an address stands that is asked for more of a thing, or is what it is known as (JSON-LD 1.1)"""

_LINKS, _RELATIONS = ("links", "_links"), ("html", "web", "self")
_LINK_WORDS = frozenset(("url", "uri", "link", "href", "permalink"))
_OF_ITS_PAGE = frozenset(
    "web page detail details canonical html site public item object product article full absolute view show landing "
    "post record permanent read more public external foreign host context".split()
)
"""words beside that for an address which say that it is of a thing's own page: ``detailUrl``"""

_NO_FIELDS = frozenset(
    (*"id key type kind uuid slug index order position lang about".split(), *_NAMES, *_OF_PICTURE, *_ADDRESSES)
)
_LONGEST_NAME, LONGEST_FIELD, _MOST_FIELDS, _MOST_VALUES = 200, 200, 20, 20
_ASKED_FOR = lazy(r"https?://|/[^/]")
_DEEPEST = 6


def shows(text: str) -> bool:
    """Tell whether a text is the address of a picture, or a piece of markup that has one."""
    return is_address(text) or ("<" in text and next(in_markup(text), None) is not None)


def led_by(markup: str) -> str:
    """Return the heading, the bold words or the link that a piece of markup has beside a picture."""
    if not shows(markup) or "<" not in markup or len(markup) > LONGEST_MARKUP:
        return ""
    body = LexborHTMLParser(markup).body
    if body is None or len(body.css(HEADING_SELECTOR)) > 1 < len(body.css("img")):  # a list of several
        return ""
    lead = body.css_first(f"{HEADING_SELECTOR}, strong, b") or body.css_first("a")
    said = text_of(lead) if lead is not None else _words_for_the_picture(body)
    return said if is_name(said) else ""


def _words_for_the_picture(body: LexborNode) -> str:
    """Return the alternative text of the one picture in a piece of markup."""
    pictures = body.css("img")
    return fold(pictures[0].attributes.get("alt") or "") if len(pictures) == 1 else ""


def is_file(value: dict[str, object]) -> bool:
    """Tell whether an object is a picture's file: its own address is one's."""
    return any(isinstance(said := value.get(name), str) and is_address(said) for name in _OF_FILES)


def thing_of(value: dict[str, object]) -> Thing | None:
    """Return what an object says that it is; None if it has no name."""
    if _is_binding(value):
        value = _plain_binding(value)
    found = _named(value, 0) or _described(value)
    if found is None:
        shown = (led_by(said) for inner in value.values() for said in _texts_of(inner) if "<" in said)
        name = next(filter(None, shown), "")
        if name:
            return Thing(name, page_of(value))
        written = _written(value, 0)
        return _thing(*written, is_written=True) if written is not None else None
    return _thing(*found)


def _thing(name: str, around: list[dict[str, object]], *, is_written: bool = False) -> Thing:
    """Return a thing by its name, with what the objects around that say of it."""
    url, columns = "", dict[str, str]()
    for level in around:
        url = url or page_of(level)
        for key, said in islice(_fields(level), _MOST_FIELDS - len(columns)):
            if said != name:
                columns.setdefault(key, said)
    columns |= rights_in(around[0]) if around else ()
    return Thing(name, url, tuple(columns.items()), is_written=is_written)


def _named(value: dict[str, object], depth: int) -> tuple[str, list[dict[str, object]]] | None:
    """Return the name of an object, and the objects that say something of it, the outermost first; None without one."""
    plain = {plain_key(key): inner for key, inner in value.items()}
    names = chain(
        (name_in_caption(plain[key]) if key == "caption" else plain[key] for key in _NAMES if key in plain),
        (inner for key, inner in value.items() if _names_it(words_of(key))),
        (plain[key] for key in _OF_PICTURE if key in plain),
    )
    if name := _first_name(names):
        return name, [value]
    if depth < _DEEPEST:
        for inner in (inner for key, inner in plain.items() if key in _AROUND):
            one = _one_object(inner)
            if one is not None and (found := _named(one, depth + 1)) is not None:
                return found[0], [value, *found[1]]
    name = _first_name(inner for key, inner in value.items() if _may_name_it(words_of(key)))
    if name:
        return name, [value]
    shown = [inner for key, inner in value.items() if isinstance(inner, dict) and _shows_itself(key, inner)]
    found = _named(shown[0], depth + 1) if len(shown) == 1 and depth < _DEEPEST else None
    return (found[0], [value, *found[1]]) if found is not None else None


def _one_object(value: object) -> dict[str, object] | None:
    """Return the object that a value is, alone in a list, or as a list of its fields."""
    if isinstance(value, list):
        value = value[0] if len(value) == 1 else fields_of(value)
    return value if isinstance(value, dict) else None


def fields_of(value: object) -> dict[str, object] | None:
    """Return the fields that a list of pairs has: ``[{"label": "Title", "value": "Red delta"}, …]``; None of others."""
    if not isinstance(value, list) or not 1 < len(value) <= _MOST_PAIRS:
        return None
    fields: dict[str, object] = {}
    for pair in value:
        label = next(filter(None, map(pair.get, _LABELS)), None) if isinstance(pair, dict) else None
        if not isinstance(label, str) or "value" not in pair:
            return None
        fields.setdefault(label, pair["value"])
    return fields


def _shows_itself(key: str, value: dict[str, object]) -> bool:
    """Tell whether an object has a name and a picture, and is nobody who has to do with what it stands in."""
    names, is_of_another = {plain_key(name) for name in value}, not words_of(key).isdisjoint(_OF_OTHERS)
    return not (is_of_another or names.isdisjoint(_NAMES)) and any(map(names_a_picture, value))


def _names_it(words: frozenset[str]) -> bool:
    """Tell whether the words of a property's name say that it is the name of the thing: ``displayName``."""
    return bool(words & NAMING) and words <= NAMING | _HOW_IT_IS_SAID


def _may_name_it(words: frozenset[str]) -> bool:
    """Tell whether the words of a property's name may say that it is the name of the thing: ``kiteName``."""
    return bool(words & _SAYS_NAME) and not words & _OF_OTHERS


def _first_name(values: Iterable[object]) -> str:
    return next(filter(is_name, (text_of_value(value) for value in values)), "")


def _described(value: dict[str, object]) -> tuple[str, list[dict[str, object]]] | None:
    """Return what an object without a name says that is to be seen, as its name."""
    plain = {plain_key(key): inner for key, inner in value.items()}
    name = _first_name(plain[key] for key in _DESCRIPTIONS if key in plain)
    if not name:
        alt, _ = words_for_picture(value)
        name = alt if is_name(alt) else ""
    return (name, [value]) if name else None


def _written(value: dict[str, object], depth: int) -> tuple[str, list[dict[str, object]]] | None:
    """Return how what somebody wrote in an object begins, as its name, and the objects around that."""
    plain = {plain_key(key): inner for key, inner in value.items()}
    captions = (inner for key, inner in value.items() if words_called(key) is InWords.CAPTION)
    if name := next(filter(None, (lead_of(whole_text(said)) for said in (*written_in(plain), *captions))), ""):
        return name, [value]
    inside = (inner for key, inner in plain.items() if key in _AROUND and isinstance(inner, dict))
    found = (_written(inner, depth + 1) for inner in inside if depth < _DEEPEST)
    within = next(filter(None, found), None)
    return (within[0], [value, *within[1]]) if within is not None else None


def _texts_of(value: object) -> Iterator[str]:
    """Yield the texts of a value, and of an object that it is."""
    for inner in value.values() if isinstance(value, dict) else (value,):
        if isinstance(inner, str):
            yield inner


def is_name(text: str) -> bool:
    """Tell whether a text may be what something is called: an address is none, nor what says how large a picture is."""
    if not 0 < len(text) <= _LONGEST_NAME or "://" in text or says_nothing(text):
        return False
    return rank(text) == UNSAID or not names_a_version(text)


def page_of(value: dict[str, object]) -> str:
    """Return the address of an object's own page, as it is written; empty if it has none.

    Where none is said, that by which an interface for programs tells more of it (JSON:API 1.1, HAL: ``self``).
    """
    plain = {key.lower(): said for key, said in value.items() if isinstance(said, str)}
    named = (said for key, said in value.items() if isinstance(said, str) and "/" in said and _names_a_page(key))
    stated = chain((plain.get(key, "") for key in _ADDRESSES), named)
    pages = (said for said in stated if "/" in said and not is_address(said))
    return next(pages, "") or _identity_of(value, plain)


def _names_a_page(key: str) -> bool:
    """Tell whether a property is called the address of a thing's own page."""
    words = words_of(key)
    return bool(words & _LINK_WORDS) and words <= _LINK_WORDS | _OF_ITS_PAGE


def _identity_of(value: dict[str, object], plain: dict[str, str]) -> str:
    """Return the address by which an object is asked for, or known as; empty if it has none."""
    links = [value[key] for key in _LINKS if key in value]
    linked = (address for relation in _RELATIONS for said in links for address in linked_as(relation, said))
    stated = chain(linked, (plain[key] for key in _IDENTITIES if key in plain))
    return next((said for said in stated if _ASKED_FOR.match(said) is not None and not is_address(said)), "")


def _fields(value: dict[str, object]) -> Iterator[tuple[str, str]]:
    """Yield the plain properties of a thing: no addresses, and nothing that counts for programs alone."""
    for key, inner in value.items():
        is_program = key.startswith("_") or plain_key(key) in _NO_FIELDS or key.lower().endswith(("id", "url", "path"))
        if is_program or words_called(key) is not None:
            continue
        values = inner[:_MOST_VALUES] if isinstance(inner, list) else [inner]
        texts = [_called(key, value) if isinstance(value, dict) else value for value in values]
        said = ", ".join(text for text in texts if isinstance(text, str) and text and not _is_of_a_file(text))
        if 0 < len(said) <= LONGEST_FIELD:
            yield key, plain_text(said)


def _is_of_a_file(text: str) -> bool:
    """Tell whether a text is an address, or a part of one, and not what is said of a thing."""
    return "/" in text or is_address(text)


def _called(key: str, value: dict[str, object]) -> str:
    """Return the name of what a thing names under a key, as whoever made it; none of a picture's file."""
    if names_a_picture(key) or is_file(value):
        return ""
    return next((said for name in _NAMED_BY if isinstance(said := value.get(name), str)), "")


def _is_binding(value: dict[str, object]) -> bool:
    """Tell whether an object is a row of an answer of SPARQL (Query Results JSON 1.1, 3.2.2): each value has a type."""
    values = value.values()
    return bool(value) and all(isinstance(inner, dict) and "type" in inner and "value" in inner for inner in values)


def _plain_binding(value: dict[str, object]) -> dict[str, object]:
    """Return such a row as an object, named by the first of its labels, as the services of such data call names."""
    plain = {name: inner["value"] for name, inner in value.items() if isinstance(inner, dict)}
    label = next((name for name in plain if name.endswith("Label")), "")
    return {"name" if name == label else name: said for name, said in plain.items()}
