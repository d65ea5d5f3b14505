"""Licences by the short names that SPDX gives them (SPDX License List), from their addresses or their usual names.

Only what is unmistakable has a short name. Creative Commons licences of a country have one where SPDX lists them.
"""

import re

from pickcrate.text.lazyre import lazy

_CREATIVE_COMMONS = "https://creativecommons.org"
_CC_ADDRESS = lazy(
    r"^https?://(?:www\.)?creativecommons\.org/(?:licenses/(by(?:-nc)?(?:-nd|-sa)?)/(\d\.\d)(?:/([a-z]{2,3}))?"
    r"|publicdomain/(zero|mark)/1\.0)(?:/|$|[?#])",
    re.IGNORECASE,
)
_CC_NAME = lazy(
    r"\b(?:CC|Creative Commons)[\s-]*(BY(?:[\s-]*NC)?(?:[\s-]*(?:ND|SA))?)"
    r"(?:[\s-]*(?:International[\s-]*)?v?(\d\.\d))(?![\d.])|\b(CC[\s-]?0)\b",
    re.IGNORECASE,
)
_CC_OF_NO_VERSION = lazy(r"\bCC[ -](BY(?:[ -](?:NC|ND|SA)){0,2})\b(?![ -]\w)")
"""in capitals, as many words go before "by" """

_CC_IN_WORDS = lazy(
    r"Creative Commons[\s:,-]{0,3}(?:Attribution|Namensnennung|Atribución|Reconocimiento|Attribuzione|Atribuição|"
    r"Reconeixement|Naamsvermelding|Erkännande|Navngivelse|Nimeä|Uznanie autorstwa|Uveďte původ|"
    r"С указанием авторства|表示|署名|저작자표시)([^\d\n]{0,120})(\d\.\d)",
    re.IGNORECASE,
)
_PUBLIC_DOMAIN_MARK = lazy(r"\bPublic Domain Mark\b|\bPDM 1\.0\b", re.IGNORECASE)
_SPDX_ADDRESS = lazy(r"^https?://spdx\.org/licenses/([A-Za-z0-9.+-]{2,40}?)(?:\.html|\.json)?/?$")
_GNU_ADDRESS = lazy(r"^https?://(?:www\.)?gnu\.org/(?:licenses|copyleft)/fdl-(1\.[123])(?:\.\w+)?/?$", re.IGNORECASE)
_RIGHTS_STATEMENT = lazy(r"^https?://rightsstatements\.org/(?:vocab|page)/([A-Za-z-]{3,12})/1\.0/?", re.IGNORECASE)
_COUNTRIES = {
    "BY": {"2.5": "AU", "3.0": "AT AU DE IGO NL US"},
    "BY-NC": {"3.0": "DE"},
    "BY-NC-ND": {"3.0": "DE IGO"},
    "BY-NC-SA": {"2.0": "DE FR UK", "3.0": "DE IGO"},
    "BY-ND": {"3.0": "DE"},
    "BY-SA": {"2.0": "UK", "2.1": "JP", "3.0": "AT DE IGO"},
}
"""the countries whose versions SPDX lists"""

_NOT_IN_DEEDS = lazy(r"(?<=\ACC)-|-(?=\d)")
"""the hyphens of a short name that Creative Commons writes as spaces"""

_NONCOMMERCIAL = lazy(
    r"non-?\s?commerc|nicht-?\s?kommerz|utilisation commerciale|no-?\s?comerc|não-?\s?comerc|niet-?\s?commerc|"
    r"icke-?\s?kommers|ikke-?\s?kommers|epäkaupall|użycie niekomerc|nepoužívejte|некоммерч|非営利|非商业|비영리",
    re.IGNORECASE,
)
_NO_DERIVATIVES = lazy(
    r"no-?\s?deriv|keine bearbeit|pas de modif|sin-?\s?(?:obra)?\s?deriv|non opere deriv|sem-?\s?deriv|"
    r"geen-?\s?afgeleide|inga bearbet|ingen bearbejd|ingen bearbeid|ei muut|bez utworów|nezpracov|без производных|"
    r"改変禁止|禁止演绎|변경금지",
    re.IGNORECASE,
)
_SHARE_ALIKE = lazy(
    r"share-?\s?alike|gleichen bedingungen|mêmes conditions|à l.identique|compartir-?\s?igual|stesso modo|"
    r"(?:compartilha|partilha)-?\s?igual|gelijk-?\s?delen|dela-?\s?lika|del på samme|jaasamoin|na tych samych|"
    r"zachovejte|на тех же|継承|相同方式共享|동일조건",
    re.IGNORECASE,
)
_PARTS = (("NC", _NONCOMMERCIAL), ("ND", _NO_DERIVATIVES), ("SA", _SHARE_ALIKE))
"""the parts of a licence's name that stand behind that the author is to be named, as its deeds are translated"""

_RIGHTS_STATEMENTS = {
    "inc": "In Copyright",
    "inc-ow-eu": "In Copyright, EU Orphan Work",
    "inc-edu": "In Copyright, Educational Use Permitted",
    "inc-nc": "In Copyright, Non-Commercial Use Permitted",
    "inc-ruu": "In Copyright, Rights-holder Unlocatable or Unidentifiable",
    "noc-cr": "No Copyright, Contractual Restrictions",
    "noc-nc": "No Copyright, Non-Commercial Use Only",
    "noc-oklr": "No Copyright, Other Known Legal Restrictions",
    "noc-us": "No Copyright, United States",
    "cne": "Copyright Not Evaluated",
    "und": "Copyright Undetermined",
    "nkc": "No Known Copyright",
}


def licence_name(said: str) -> str:
    """Return the short name of a licence that an address or a text names; of another its usual name, or no text.

    A text that names no known licence is returned as it is; an address is not.
    """
    if (match := _CC_ADDRESS.match(said)) is not None:
        if match[4]:
            return "CC0-1.0" if match[4].lower() == "zero" else "CC-PDM-1.0"
        kind, version, country = match[1].upper(), match[2], (match[3] or "").upper()
        if country and country not in _COUNTRIES.get(kind, {}).get(version, "").split():
            return f"CC {kind} {version} {country}"
        return f"CC-{kind}-{version}{f'-{country}' if country else ''}"
    for pattern, before in ((_SPDX_ADDRESS, ""), (_GNU_ADDRESS, "GFDL-")):
        if (match := pattern.match(said)) is not None:
            return f"{before}{match[1]}"
    if (match := _RIGHTS_STATEMENT.match(said)) is not None:
        return _RIGHTS_STATEMENTS.get(match[1].lower(), "")
    if said.startswith(("http://", "https://")):
        return ""
    return _named(said) or said


def _named(text: str) -> str:
    if (match := _CC_NAME.search(text)) is not None:
        return "CC0-1.0" if match[3] else "-".join(("CC", *re.split(r"[\s-]+", match[1].upper()), match[2]))
    if (match := _CC_IN_WORDS.search(text)) is not None:
        parts = [part for part, words in _PARTS if words.search(match[1]) is not None]
        return "-".join(("CC", "BY", *parts, match[2]))
    if _PUBLIC_DOMAIN_MARK.search(text) is not None:
        return "CC-PDM-1.0"
    bare = _CC_OF_NO_VERSION.search(text) or _CC_OF_NO_VERSION.fullmatch(text.strip().upper())
    return f"CC {bare[1].replace(' ', '-')}" if bare is not None else ""


def spellings(name: str) -> tuple[str, ...]:
    """Return a licence's name as it may be written: ``CC-BY-SA-4.0``, ``CC BY-SA 4.0``, ``CC BY SA 4.0``."""
    as_deeds_have_it = _NOT_IN_DEEDS.sub(" ", name)
    return tuple(dict.fromkeys((name, as_deeds_have_it, name.replace("-", " "), name.replace(" ", "-"))))


def licence_address(name: str) -> str:
    """Return the address of a Creative Commons licence by its short name; empty for any other."""
    if name == "CC0-1.0":
        return f"{_CREATIVE_COMMONS}/publicdomain/zero/1.0/"
    if name == "CC-PDM-1.0":
        return f"{_CREATIVE_COMMONS}/publicdomain/mark/1.0/"
    match = re.fullmatch(r"CC-(BY(?:-NC)?(?:-ND|-SA)?)-(\d\.\d)(?:-([A-Z]{2,3}))?", name)
    if match is None:
        return ""
    country = f"{match[3].lower()}/" if match[3] else ""
    return f"{_CREATIVE_COMMONS}/licenses/{match[1].lower()}/{match[2]}/{country}"
