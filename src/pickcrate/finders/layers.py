"""Layers of a page that a click puts in front of it: dialogs, popovers, boxes that show a thumbnail's original.

``<a href="#red"><img src="thumbs/red.jpg"></a> … <div id="red" class="lightbox"><img src="red.jpg"></div>``

HTML standard, 4.11.4 (``dialog``), 6.12 (``popover``), 7.4.6.4 (scrolling to a fragment); WAI-ARIA 1.2 (``dialog``).
What is no layer by its markup or its class is a part of the page like any other, whatever leads to it.
"""

from itertools import islice

from selectolax.lexbor import LexborHTMLParser, LexborNode

from pickcrate.text.lazyre import lazy

_CALLED = ("modal", "lightbox", "popup", "overlay", "dialog", "fullscreen", "zoomed")
_MARKED = ("dialog", "[role=dialog]", "[aria-modal]", "[popover]")
_LAYERS = f":is({', '.join((*_MARKED, *(f'[class*={word} i]' for word in _CALLED)))})[id]"
_MOST_LAYERS = 2_000

_LEADING = ("href", "data-target", "data-bs-target")
"""attributes of what opens a layer that say which, as a fragment does"""

_NAMING = ("popovertarget", "commandfor", "aria-controls")
"""those that say it by the ``id`` alone"""


_IN_QUOTES = lazy(r"['\"]#?([\w-]{1,80})['\"]")
_LONGEST_HANDLER = 1_000


def layers_of(tree: LexborHTMLParser) -> dict[str, LexborNode]:
    """Return the layers of a page by their ``id``; of several with one, the first."""
    found: dict[str, LexborNode] = {}
    for layer in islice(tree.css(_LAYERS), _MOST_LAYERS):
        found.setdefault(layer.attributes.get("id") or "", layer)
    return found


def opened_by(attributes: dict[str, str | None]) -> list[str]:
    """Return the parts of the page that an element may open, by their ``id``, as it says itself or its script does."""
    fragments = ((attributes.get(name) or "").strip() for name in _LEADING)
    named = [fragment[1:] for fragment in fragments if fragment.startswith("#")]
    named += [(attributes.get(name) or "").strip() for name in _NAMING]
    if pressed := attributes.get("onclick"):
        named += _IN_QUOTES.findall(pressed[:_LONGEST_HANDLER])
    return list(filter(None, named))
