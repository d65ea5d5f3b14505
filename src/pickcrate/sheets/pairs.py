"""Differences between two collections as one web page: old and new side by side, and nothing from elsewhere."""

import html
from base64 import b64encode
from collections import Counter
from collections.abc import Iterator, Sequence
from importlib.resources import files

from pickcrate.addresses import without_userinfo
from pickcrate.comparison import Change, Holding
from pickcrate.frozen import frozen
from pickcrate.sheets.page import GENERATOR, digest_of, policy_for
from pickcrate.sheets.preview import Preview
from pickcrate.version import __version__


@frozen
class Sight:
    """One difference to look at: what changed, both sides with their previews, or in words why there is none."""

    change: Change
    old: Holding | None
    new: Holding | None
    old_preview: Preview | str
    new_preview: Preview | str


def page_of_pairs(title: str, about: str, sights: Sequence[Sight], same: int) -> Iterator[str]:
    """Yield the page, part by part; whatever a page or a list said is only text."""
    parts = files("pickcrate.sheets")
    style = (parts / "sheet.css").read_text(encoding="utf-8") + (parts / "pairs.css").read_text(encoding="utf-8")
    script = (parts / "pairs.js").read_text(encoding="utf-8")
    values = {
        "POLICY": policy_for(style=digest_of(style), script=digest_of(script)),
        "GENERATOR": f"{GENERATOR} {__version__}",
        "TITLE": _text(title),
        "ABOUT": _text(about),
        "STYLE": style,
        "SCRIPT": script,
        "SAME": f"{same:,} the same",
        "KINDS": "".join(_kinds(sights)),
    }
    template = (parts / "pairs.html").read_text(encoding="utf-8")
    for number, part in enumerate(template.split("@@")):
        if number % 2 == 0:
            yield part
        elif part == "PAIRS":
            yield from map(_pair, sights)
        else:
            yield values[part]


def _kinds(sights: Sequence[Sight]) -> Iterator[str]:
    counts = Counter(sight.change for sight in sights)
    for change in Change:
        if counts[change]:
            box = f'<input type="checkbox" checked value="{change.name.lower()}">'
            yield f'<label class="kind {change.name.lower()}">{box} {change.value} <b>{counts[change]:,}</b></label>'


def _pair(sight: Sight) -> str:
    known = sight.new or sight.old
    assert known is not None  # noqa: S101 (a difference has a side)
    words = f"{known.file} {known.item} {known.alt} {known.url} {known.page}"
    title = known.file or known.item or known.alt or known.url.rpartition("/")[2]
    sides = _side("before", sight.old, sight.old_preview) + _side("now", sight.new, sight.new_preview)
    return (
        f'<li class="pair" data-change="{sight.change.name.lower()}" data-words="{_text(words.lower())}">'
        f'<p class="what"><span class="kind {sight.change.name.lower()}">{sight.change.value}</span> '
        f"<strong>{_text(title)}</strong> {_text(known.item if known.item != title else known.alt)}</p>"
        f'<div class="sides">{sides}</div></li>\n'
    )


def _side(label: str, holding: Holding | None, preview: Preview | str) -> str:
    if holding is None:
        said = "was not there" if label == "before" else "is gone"
        return f'<figure class="none"><div class="face"><span>{said}</span></div></figure>'
    if isinstance(preview, str):
        face = f"<span>{_text(preview)}</span>"
    else:
        octets = b64encode(preview.octets).decode()
        face = f'<img alt="{label}" src="data:{preview.media_type};base64,{octets}">'
    sides = f"{holding.width}×{holding.height}" if holding.pixels else ""
    size = f"{holding.bytes / 1000:,.1f} kB" if holding.bytes else ""
    facts = " · ".join(filter(None, (label, holding.file, sides, size)))
    return (
        f'<figure><div class="face">{face}</div><figcaption>{_text(facts)}<br>'
        f'<span class="address">{_text(holding.url)}</span></figcaption></figure>'
    )


def _text(text: str) -> str:
    return html.escape(without_userinfo(text)).encode("utf-8", "replace").decode("utf-8")
