"""What a picture is called, and what is said of it: names of buttons, icons and placeholders, words that lead on."""

import re

from pickcrate.addresses.ranks import names_a_placeholder, words_in
from pickcrate.addresses.url import file_parts, folder_of, path_of
from pickcrate.finders.place import LEADING
from pickcrate.sift.seen import BADGE, ICON, Seen, is_free, is_nameless, leads_away, name_of
from pickcrate.text.lazyre import lazy
from pickcrate.values.foundin import FoundIn

_SAYS_SO = frozenset(
    "logo logos logotype icon icons ico icn glyph badge badges button buttons btn bullet bullets chevron avatar "
    "avatars gravatar userpic emoji emoticon emoticons smiley smilies smileys rss hamburger checkmark login advert "
    "spacer 1x1 tracker sprite sprites favicon captcha hitcounter loader loading spinner placeholder wordmark licence "
    "license".split()
)
"""what only furniture is called"""
_IN_PROSE = _SAYS_SO.union(
    "arrow arrows caret flag flags rating social share feed search menu close prev previous next tick print mail email "
    "phone cart basket user home homepage edit external download downloads powered hosted counter sponsor payment "
    "visit pixel tracking beacon clear brand masthead ornament deco title header footer build coverage".split()
)
"""the same, and what else is called so too: it counts where little else is said"""
_IN_NAMES = _IN_PROSE.union(
    "border corner shadow divider separator gradient bg background texture ad ads blank transparent hr rule bar dot "
    "ball".split()
)
"""the same, and what in words about a picture is what that shows"""
_FEW_IN_NAME, _FEW_IN_PROSE, _LONGEST_PROSE = 2, 3, 60
"""words of a short name and of a short text; characters of a text that are looked at"""

_WORD = lazy(r"1x1|[^\W\d_]+")
_NAME_OF_A_SIZE = "_default"
"""``home_default`` is what shops call a size"""

_STEERS = lazy(
    r"(?:back|next|previous|prev|up|top|home|contents|table of contents|index|return|go to|go back|continue|forward|"
    r"first page|last page|zurück|weiter|nach oben|inhalt|précédent|suivant|retour|sommaire|anterior|siguiente|volver|"
    r"inicio|indietro|avanti|назад|вперёд|далее|戻る|次へ|前へ|目次)(?:\W|$|\s+to\b)",
    re.IGNORECASE,
)
_LONGEST_STEERING = 40
_ARROW = lazy(
    r"(?:^|[\W_\d])(?:up|top|left|right|back|forward|prev|previous|next|home|index|toc|contents|start)(?:[\W_\d]|$)"
)
_KIND_OF_FILE = lazy(r"\[(?:[A-Z][A-Z0-9]{1,3}|PARENTDIR|SOUND|BINARY|VIDEO|   )\]")
"""what listings of folders say of the signs before their files"""

_BRACKETED = lazy(r"\[[^\[\]]{1,20}\]")
_ADMONITIONS = frozenset("note tip warning caution important danger hint attention info".split())
_KINDS_OF_FILES = frozenset("pdf doc docx word odt rtf txt xls xlsx excel csv ppt pptx zip rar mp3 html xml".split())
_CONTROLS = frozenset("btn button buttons icon icons ico icn arrow arrows chevron".split())
_CONTROLS_AT_THE_END = ("btn", "button")
"""without a mark before them: ``prevbtn``"""

_ACTS = lazy(r"(?:mailto|tel|sms|callto|whatsapp):|javascript:.{0,40}\b(?:print|back|history)\b", re.IGNORECASE)
_OFFERS = lazy(
    r"(?:get it|download|available|listen|watch|find us|order|jetzt|laden im|disponible|scarica|télécharger)"
    r"\s+(?:now\s+)?(?:on|at|in|from|bei|sur|en|su|dans)\s",
    re.IGNORECASE,
)
_PICTURE = (
    r"(?:images?|imgs?|photos?|photographs?|fotos?|pictures?|pics?|thumbs?|thumbnails?|covers?|posters?|artworks?|"
    r"avatars?|bilder|bild|imagen|imagem|immagine|afbeelding|zdjecia)"
)
_OF_WHAT = r"(?:products?|items?|default|catalog|posts?|articles?|news|user|profile|books?|movies?|artists?|albums?)"
_NOT_THERE = (
    r"(?:(?:not|non|nicht)[-_ ]*(?:yet[-_ ]*)?(?:available|found|disponible|disponivel|verf(?:ue|ü)gbar)|unavailable|"
    r"missing|pending|(?:is[-_ ]*)?coming[-_ ]*soon|to[-_ ]*follow|folgt)"
)
_MISSING = lazy(
    rf"(?:{_OF_WHAT}[-_ ]*)?(?:"
    rf"(?:no|kein|keine|ohne|sin|sans|pas[-_ ]d[-_ e]*|senza|sem|geen|ingen|brak|missing|awaiting)[-_ ]*"
    rf"(?:{_OF_WHAT}[-_ ]*)?{_PICTURE}(?:[-_ ]*(?:yet|available|found|provided|uploaded|disponible))?|"
    rf"(?:{_PICTURE}[-_ ]*)?{_NOT_THERE}|(?:{_PICTURE}[-_ ]*)?placeholder(?:[-_ ]*{_PICTURE})?"
    r")(?:[-_. x0-9]|small|medium|large|square|grande|default|icon)*",
    re.IGNORECASE,
)
"""what is shown where there is no picture, in the languages that catalogues are in"""

_LONGEST_MISSING = 60
_EMPTY = frozenset("blank spacer transparent empty".split())
_WAITING = frozenset("loader loading spinner".split())
_FACES_DRAWN = frozenset("smiley smileys smilie smilies smiles emoji emojis emoticon emoticons".split())
_NO_PHOTOGRAPHS = frozenset(("gif", "png", "svg", "webp"))


def made_by_a_program(seen: Seen) -> str:
    """Hold of a low picture whose address is a program's: a counter of visits."""
    is_low = seen.shorter is not None and seen.shorter <= ICON and not seen.is_about
    return "made by a program, and low" if is_low and "/cgi-bin/" in seen.image.shown.url else ""


def leads_to_licence(seen: Seen) -> str:
    """Hold of what links to the licence of the page (HTML standard, 4.6.7.6)."""
    return "it leads to a licence" if "license" in seen.image.shown.relation.split() else ""


def admonition(seen: Seen) -> str:
    """Hold of the sign of a note or a warning in a manual: the box around it has the name that it has."""
    shown = seen.image.shown
    stem = file_parts(shown.url)[0].casefold()
    if stem not in _ADMONITIONS:
        return ""
    is_boxed = re.search(rf"\.(?:admonition\w*|icon|{stem})\b", shown.element) is not None
    return f"the sign of a box of its name ({stem})" if is_boxed or _BRACKETED.fullmatch(shown.words.alt) else ""


def said_by_a_mark(seen: Seen) -> str:
    """Its alternative text is a dash, a star, an arrow: what it stands for. Dots alone are words left to be written."""
    alt = seen.image.shown.words.alt.strip(".… ")
    if _KIND_OF_FILE.fullmatch(alt) is not None:
        return f"the sign of a kind of file: {alt}"
    return "its alternative text is only a mark" if alt and not any(map(str.isalnum, alt)) else ""


def steering(seen: Seen) -> str:
    """Hold of a picture that only leads on, by its words or those of its link: back, next, up, contents."""
    words = seen.image.shown.words
    said = words.link_text or words.alt
    leads = seen.image.shown.link and len(said) <= _LONGEST_STEERING and _STEERS.match(said.strip(" []<>«»←→↑-"))
    return "it only leads on: " + said if leads else ""


def leading(seen: Seen) -> str:
    """Hold of a small picture, or one so called, that leads to the page before, behind or above: not of photographs."""
    shown = seen.image.shown
    relation = next((word for word in shown.relation.split() if word in LEADING), "")
    if not relation or (seen.longer or 0) > BADGE:
        return ""
    stem = file_parts(shown.url)[0].casefold()
    return f"it leads from page to page ({relation})" if seen.longer is not None or _ARROW.search(stem) else ""


def acting(seen: Seen) -> str:
    """Hold of a drawing, small or of unknown size, whose link shows nothing: it writes, calls or prints."""
    image = seen.image
    is_beside = is_nameless(image.item) or is_free(image.item) or seen.has_larger_beside
    if (seen.longer or 0) > BADGE or not is_beside:
        return ""
    is_drawn = file_parts(image.url)[1].lower() in _NO_PHOTOGRAPHS
    return "it writes, calls or prints" if is_drawn and _ACTS.match(image.shown.link) else ""


def offering(seen: Seen) -> str:
    """Hold of a badge that says where a program, a film or a record is to be had, and leads there."""
    shown = seen.image.shown
    is_badge = leads_away(seen.image) and _OFFERS.match(shown.words.alt.strip()) is not None
    return "it says where something is to be had" if is_badge else ""


def kind_of_file(seen: Seen) -> str:
    """Hold of a small drawing, or of one of unknown size, that is called a kind of file: it stands beside a link."""
    stem, extension = file_parts(seen.image.url)
    kind = stem.casefold().removesuffix("icon").removesuffix("ico").strip("-_")
    is_sign = kind in _KINDS_OF_FILES and extension.lower() in _NO_PHOTOGRAPHS and (seen.longer or 0) <= BADGE
    return f"the sign of a kind of file: {kind}" if is_sign else ""


def control(seen: Seen) -> str:
    """Hold of a small drawing, or of one of unknown size, whose file or folder is called a button, an icon, smileys."""
    image = seen.image
    stem, extension = file_parts(image.url)
    if extension.lower() not in _NO_PHOTOGRAPHS or (seen.longer or 0) > BADGE:
        return ""
    is_smiley = folder_of(image.url).casefold() in _FACES_DRAWN
    if is_smiley and (not seen.is_about or image.shown.found_in == FoundIn.SCRIPT):  # an editor's list names each
        return "it lies among smileys"
    if seen.is_about:
        return ""
    words = [word for word in words_in(stem) if not word[0].isdigit()]
    ends = {words[0], words[-1]} if words else set()
    ends |= {end for end in _CONTROLS_AT_THE_END if stem.casefold().endswith(end)}
    if extension.lower() == "gif" and not ends.isdisjoint(_WAITING):
        return "its file is called what is shown while something loads"
    return "" if ends.isdisjoint(_CONTROLS) else "its file is called a button, an arrow or an icon"


def placeholder(seen: Seen) -> str:
    """Hold of a small drawing, or of one of unknown size, whose file is called nothing but a placeholder: ``blank``."""
    stem, extension = file_parts(seen.image.url)
    if extension.lower() not in {"gif", "png", "svg"} or (seen.longer or 0) > BADGE or stem.lower() == "default":
        return ""
    if seen.is_about and _EMPTY.isdisjoint(words_in(stem)):
        return ""
    return "its file is called a placeholder" if names_a_placeholder(stem) else ""


def missing(seen: Seen) -> str:
    """Hold of what a catalogue shows where it has no picture of a thing: ``no-image-available``."""
    stem = file_parts(seen.image.url)[0]
    is_missing = len(stem) <= _LONGEST_MISSING and _MISSING.fullmatch(stem) is not None
    return "it says that there is no picture" if is_missing and stem.lower() != "missing" else ""


def captcha(seen: Seen) -> str:
    """Hold of the letters that a form asks a person to read."""
    shown = seen.image.shown
    is_captcha = "captcha" in f"{path_of(shown.url)} {shown.element.rpartition(' > ')[2]}".casefold()
    return "letters to be read by a person (captcha)" if is_captcha and not seen.is_about else ""


def words(seen: Seen) -> str:
    """Hold of what an address, a class or the alternative text says: never enough alone, however much there is."""
    image = seen.image
    if seen.is_about:
        return ""
    folder, _, stem = name_of(image.url).rpartition("/")
    if word := _word_in_name(folder) or _word_in_name(stem):
        return f"its address says {word}"
    element, alt = image.shown.element.rpartition(" > ")[2], image.shown.words.alt[:_LONGEST_PROSE]
    if word := _word_in_name(element.casefold()) or _word_in_prose(alt.casefold()):
        return f"its words say {word}"
    return ""


def _word_in_name(name: str) -> str:
    """Return the first word of a name that is one for furniture; what may be one, only at an end of a longer name."""
    said = [match for match in _WORD.finditer(name) if not _is_of_a_hash(match)]
    for match in said:
        is_apart = len(said) <= _FEW_IN_NAME or match in (said[0], said[-1])
        meant = _IN_NAMES if is_apart else _SAYS_SO
        if match[0] in meant and not name.startswith(_NAME_OF_A_SIZE, match.end()):
            return match[0]
    return ""


def _word_in_prose(text: str) -> str:
    """Return the first word of a text about a picture that is one for furniture; what may be one, of short texts."""
    said = _WORD.findall(text)
    meant = _IN_PROSE if len(said) <= _FEW_IN_PROSE else _SAYS_SO
    return next((word for word in said if word in meant), "")


def _is_of_a_hash(match: re.Match[str]) -> bool:
    """Tell whether letters stand between digits, as those of a number in base 16 may: ``05ad8``."""
    text, (start, end) = match.string, match.span()
    return text[max(start - 1, 0) : start].isdigit() and text[end : end + 1].isdigit()
