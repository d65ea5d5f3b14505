"""robots.txt (RFC 9309): what one site's file, or the lack of one, allows."""

import re
from typing import TYPE_CHECKING, Protocol

from msgspec import Struct

from pickcrate.fetch.exchange import Failure, Reply
from pickcrate.text.lazyre import lazy
from pickcrate.values.cause import Cause
from pickcrate.version import ROBOTS_TOKEN

if TYPE_CHECKING:
    from protego import Protego

MAX_BYTES = 512_000
"""RFC 9309, 2.5: parsers must read at least 500 KiB."""


_LINE = lazy(r"\s*(user-?agent|allow|disallow)\s*:(.*)", re.IGNORECASE)
_TOKEN = lazy(r"[A-Za-z_-]+|\*(?!\S)")
_OURS = frozenset((ROBOTS_TOKEN, "*"))
_ANOTHER = "another"
"""in place of the name of any other robot: a part of our own would be taken for it"""


class Rules(Protocol):
    """What a site allows."""

    def refusal(self, url: str) -> Failure | None:
        """Return why ``url`` is not to be fetched, or None if it may be."""


class Anything(Struct, frozen=True):
    """No rules: the site has no robots.txt (RFC 9309, 2.3.1.3), or was told not to matter."""

    def refusal(self, url: str) -> Failure | None:  # noqa: ARG002
        """Allow every address."""
        return None


class Nothing(Struct, frozen=True):
    """The file could not be had, so all is disallowed (RFC 9309, 2.3.1.4)."""

    why: Failure

    def refusal(self, url: str) -> Failure | None:  # noqa: ARG002
        """Refuse every address, with the reason."""
        return self.why


class Written(Struct, frozen=True):
    """A robots.txt that was read."""

    parsed: "Protego"

    def refusal(self, url: str) -> Failure | None:
        """Refuse what the file's group for us disallows."""
        if self.parsed.can_fetch(url, ROBOTS_TOKEN):
            return None
        return Failure(Cause.ROBOTS, "the site's robots.txt asks not to (--no-robots fetches it all the same)")


def rules(reply: Reply) -> Rules:
    """Return the rules that the answer to a request for /robots.txt makes."""
    if 400 <= reply.status < 500:
        return Anything()
    if reply.failure is not None:
        if reply.status:
            words = f"its site's robots.txt is out of order: {reply.failure.words}"
            return Nothing(Failure(Cause.ROBOTS_UNREAD, words))
        return Nothing(reply.failure)
    from protego import Protego  # noqa: PLC0415 (not with --no-robots)

    return Written(Protego.parse(_by_the_letter(reply.octets[:MAX_BYTES].decode("utf-8-sig", "replace"))))


def _by_the_letter(text: str) -> str:
    """Return the lines of RFC 9309, 2.2, and no others: an unknown one ends no group (2.2.4).

    A robot's name ends where a product token does (2.2.1): ``pickcrate/0.1`` means us.
    """
    lines: list[str] = []
    for match in filter(None, map(_LINE.match, text.splitlines())):
        name, value = match[1].lower(), match[2].partition("#")[0].strip()
        if name in {"user-agent", "useragent"}:
            token = _TOKEN.match(value)
            value = token[0].lower() if token is not None and token[0].lower() in _OURS else _ANOTHER
        lines.append(f"{'user-agent' if name == 'useragent' else name}: {value}")
    return "\n".join(lines)
