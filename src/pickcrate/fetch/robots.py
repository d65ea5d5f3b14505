"""robots.txt (RFC 9309): what one site's file, or the lack of one, allows."""

from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

from pickcrate.fetch.exchange import Failure, Reply
from pickcrate.version import ROBOTS_TOKEN

if TYPE_CHECKING:
    from protego import Protego

MAX_BYTES = 512_000
"""RFC 9309, 2.5: parsers must read at least 500 KiB."""


class Rules(Protocol):
    """What a site allows."""

    def refusal(self, url: str) -> Failure | None:
        """Return why ``url`` is not to be fetched, or None if it may be."""


@dataclass(frozen=True, slots=True)
class Anything:
    """No rules: the site has no robots.txt (RFC 9309, 2.3.1.3), or was told not to matter."""

    def refusal(self, url: str) -> Failure | None:  # noqa: ARG002
        """Allow every address."""
        return None


@dataclass(frozen=True, slots=True)
class Nothing:
    """The file could not be had, so all is disallowed (RFC 9309, 2.3.1.4)."""

    why: Failure

    def refusal(self, url: str) -> Failure | None:  # noqa: ARG002
        """Refuse every address, with the reason."""
        return self.why


@dataclass(frozen=True, slots=True)
class Written:
    """A robots.txt that was read."""

    parsed: "Protego"

    def refusal(self, url: str) -> Failure | None:
        """Refuse what the file's group for us disallows."""
        if self.parsed.can_fetch(url, ROBOTS_TOKEN):
            return None
        return Failure("robots", "the site's robots.txt asks not to (--no-robots fetches it all the same)")


def rules(reply: Reply) -> Rules:
    """Return the rules that the answer to a request for /robots.txt makes."""
    if 400 <= reply.status < 500:
        return Anything()
    if reply.failure is not None:
        if reply.status:
            return Nothing(Failure("no robots.txt", f"its site's robots.txt is out of order: {reply.failure.words}"))
        return Nothing(reply.failure)
    from protego import Protego  # noqa: PLC0415 (not with --no-robots)

    return Written(Protego.parse(reply.octets[:MAX_BYTES].removeprefix(b"\xef\xbb\xbf").decode("utf-8", "replace")))
