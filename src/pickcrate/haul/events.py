"""What a haul tells as it goes."""

from msgspec import Struct

from pickcrate.haul.splitting import Read, Split
from pickcrate.haul.working import Report
from pickcrate.stores.papers import Haul, Receipt


class SplitDone(Struct, frozen=True):
    """The list is split, and its loads are in the store."""

    split: Split


class Begun(Struct, frozen=True):
    """The cluster is there: how many loads were packed before, with their receipts to be counted, and who works."""

    haul: Haul
    receipts: tuple[Receipt, ...]
    workers: int
    is_own: bool
    """whether the workers are this machine's"""


class LoadDone(Struct, frozen=True):
    """A load is packed and published."""

    receipt: Receipt


class LoadFailed(Struct, frozen=True):
    """A try to pack a load came to an end; after the last one it is left for a later run."""

    load: int
    words: str
    is_given_up: bool


class Waiting(Struct, frozen=True):
    """A moment of the haul: loads that are with workers, and workers that are there."""

    loads: int
    workers: int


HaulEvent = Read | SplitDone | Begun | Report | LoadDone | LoadFailed | Waiting
