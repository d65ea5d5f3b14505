"""What is said of the use of pictures: who is to be named, under which licence, on which terms; and who says it."""

from enum import Enum, StrEnum

from msgspec import Struct

from pickcrate.addresses.url import is_web
from pickcrate.values.licences import licence_address, licence_name


class Aspect(Enum):
    """What a claim is about."""

    CREDIT = "credit"
    """who is to be named"""
    LICENCE = "licence"
    """by its name or its address"""
    TERMS = "terms"
    """where the terms of use are, or whom to ask, as an address"""


class Claimant(StrEnum):
    """Who makes a claim, the strongest first: what says it of this very picture before what says it of several."""

    FILE = "the file"
    DATA = "the page's data on it"
    MANIFEST = "its manifest"
    BESIDE = "the page beside it"
    CAPTION = "its caption"
    ITEM = "its item"
    LIST = "its list"
    PAGE = "the page, of all it has"


class Claim(Struct, frozen=True):
    """One thing that is said of the use of a picture: what, by whom, and under which name there."""

    aspect: Aspect
    text: str
    by: Claimant
    named: str = ""

    @property
    def origin(self) -> str:
        """Where it was said, in words."""
        return f"{self.by.value}: {self.named}" if self.named else self.by.value


_STRENGTH = {by: place for place, by in enumerate(Claimant)}


class Rights(Struct, frozen=True):
    """What is said of the use of a page's pictures, or of one picture. Claims are never mixed: each is somebody's."""

    bar: str = ""
    """the robots directive that asks not to take them; empty if none does"""
    reservation: str = ""
    """of text and data mining: ``reserved``, with the policy's address if there is one; empty if it is not"""
    claims: tuple[Claim, ...] = ()

    def claim(self, aspect: Aspect) -> Claim | None:
        """Return the strongest claim about one thing; of equals the first."""
        made = [claim for claim in self.claims if claim.aspect is aspect]
        return min(made, key=lambda claim: _STRENGTH[claim.by]) if made else None

    @property
    def credit(self) -> str:
        """Who is to be named; empty if nobody says."""
        claim = self.claim(Aspect.CREDIT) if self.claims else None
        return claim.text if claim is not None else ""

    @property
    def licence(self) -> str:
        """The licence by its short name (SPDX) where it is a known one, else by its own; empty if none is stated."""
        claim = self.claim(Aspect.LICENCE) if self.claims else None
        return licence_name(claim.text) if claim is not None else ""

    @property
    def licence_url(self) -> str:
        """The address of the licence; empty if there is none."""
        claim = self.claim(Aspect.LICENCE) if self.claims else None
        if claim is None:
            return ""
        return claim.text if is_web(claim.text) else licence_address(licence_name(claim.text))

    @property
    def terms_url(self) -> str:
        """Where the terms of use are, or whom to ask for a licence; empty if nobody says."""
        claim = self.claim(Aspect.TERMS) if self.claims else None
        return claim.text if claim is not None else ""

    def origin(self, aspect: Aspect) -> str:
        """Return where it was said, in words; empty if nobody says it."""
        claim = self.claim(aspect) if self.claims else None
        return claim.origin if claim is not None else ""
