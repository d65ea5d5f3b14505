"""Why one address may be a larger version of another: the kinds of evidence, and how sure it is."""

from enum import Enum

from msgspec import Struct


class Basis(Enum):
    """What the evidence for a candidate rests on; its value is how that is said, with the evidence's details."""

    SHOWN = "as shown"
    LINK = "the picture links to it"
    IN_LINK = "the address in its link"
    OPENED = "it opened when the picture was pressed"
    BESIDE = "the page shows this size as well"
    SIZE = "{detail} {descriptor}"
    """the detail is the element and its attribute"""
    ATTRIBUTE = "the {detail} attribute"
    DATA = "{detail} in a data block"
    CARD = "the page's own {detail} data, named alike"
    ADDRESS = "by its address: {detail}"
    """the detail is the convention's name"""
    RULE = "by your rule {detail}"
    LISTED = "{detail}"
    """what a list or a ledger says"""
    TILES = "put together of {detail}"
    SERVICE = "as its {detail} description says"


class Evidence(Struct, frozen=True):
    """Why a candidate may be a larger version."""

    basis: Basis
    detail: str = ""
    descriptor: str = ""
    """the width or density descriptor of an image candidate string"""
    is_sure: bool = True
    """the form of the address is unmistakable; false if it is only plausible"""
    is_original: bool = False
    """it is what the other was made of, if it is right: an address that was carried inside, or whose copy is shown"""
    is_believed: bool = False
    """it was not looked at: its convention proved right for other pictures of the site"""
    is_lone: bool = False
    """its size and shape are right, but only plausible, and the convention proved right for no other of the site"""
    behind: str = ""
    """the page behind the thumbnail that it was found on"""

    @property
    def is_guess(self) -> bool:
        """Whether no page names it: the address was made by us."""
        return self.basis in {Basis.ADDRESS, Basis.RULE}

    @property
    def kind(self) -> "Evidence":
        """The same without what differs from picture to picture: pictures marked up alike have it in common."""
        return Evidence(self.basis, self.detail, is_sure=self.is_sure)

    def __str__(self) -> str:
        if self is AS_SHOWN:
            return Basis.SHOWN.value
        said = self.basis.value.format(detail=self.detail, descriptor=self.descriptor).strip()
        said = f"on the page behind it, {self.behind}: {said}" if self.behind else said
        return f"{said}, believed: it proved right for others of this site" if self.is_believed else said


AS_SHOWN = Evidence(Basis.SHOWN)
