"""Twins in crates: fingerprints, kept in the ledger; what gives way to what; groups of pictures that are alike."""

from collections import defaultdict
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Protocol

from msgspec import Struct
from msgspec.structs import replace

from pickcrate.comparison import Holding
from pickcrate.crate.entry import Entry, State
from pickcrate.crate.incoming import Arrival
from pickcrate.crate.ledger import Ledger
from pickcrate.crate.places import Places
from pickcrate.crate.reading import LedgerReader
from pickcrate.crate.store import Crate
from pickcrate.errors import CrateError, UsageError
from pickcrate.twins.fingerprint import Fingerprint, fingerprint, from_text
from pickcrate.twins.likeness import (
    PERHAPS,
    TWINS,
    Likeness,
    View,
    are_seen_alike,
    by_fingerprint,
    look_the_same,
    view_of,
)
from pickcrate.twins.search import MOST_WITH_CROPS, Index, near_pairs
from pickcrate.values.image import Ruling, Verdict
from pickcrate.values.outcome import LeftOutBy

_NONE = "-"
"""in a ledger, of a picture that has no fingerprint"""

_MOST_COMPARED = 8
"""Pictures near a new one that are laid over it."""


class Home(Protocol):
    """A crate or a store."""

    name: str
    """how it is told from others"""
    address: str
    root: Path | None
    """the folder of a crate, whose files may be moved"""

    def held(self) -> Iterator[tuple[Entry, Fingerprint | None]]:
        """Yield each file that it holds, with its fingerprint; None of what hardly has a structure."""

    def octets(self, entry: Entry) -> bytes:
        """Return the file of a row; nothing where it cannot be read."""


class Alike(Struct, frozen=True):
    """One picture of a group: where it is, its row, and how it is like the best of the group (None of that itself)."""

    home: Home
    entry: Entry
    likeness: Likeness | None = None


def quality(entry: Entry) -> tuple[int, int]:
    """Return what makes one twin better than another: more pixels, then less compression."""
    return (entry.width or 0) * (entry.height or 0), entry.bytes or 0


def fingerprint_of(places: Places, entry: Entry) -> Fingerprint | None:
    """Return the fingerprint of a held picture: as the ledger has it, else of its file; None if it has none."""
    if is_known(entry):
        return from_text(entry.fingerprint)
    return fingerprint(octets_of(places, entry))


def seen_text(places: Places, entry: Entry) -> str:
    """Return the fingerprint of a held picture as text, as ledgers and lists keep it."""
    found = fingerprint_of(places, entry)
    return found.as_text() if found is not None else _NONE


def is_known(entry: Entry) -> bool:
    """Tell whether the ledger has a picture's fingerprint, of today's kind, or knows that there is none."""
    return entry.fingerprint == _NONE or from_text(entry.fingerprint) is not None


def octets_of(places: Places, entry: Entry) -> bytes:
    """Return the file of a held picture; nothing where it cannot be read."""
    return octets_in(places, entry.file)


def octets_in(places: Places, file: str) -> bytes:
    """Return a file of a crate; nothing where it cannot be read."""
    path = places.of(file)
    try:
        return path.read_bytes() if path is not None else b""
    except OSError:
        return b""


class Judged(Struct, frozen=True):
    """What becomes of a picture that came: why it is left out, or what gives way to it, or what is to be said."""

    verdict: Verdict | None = None
    give_way: tuple[Entry, ...] = ()
    note: str = ""


class TwinsOfRun:
    """What a run that drops twins knows: the fingerprints of its crate, and of others that it is not to repeat."""

    def __init__(self, places: Places, ledger: Ledger, others: Sequence[Path]) -> None:
        """Read what is known, and look at the files of which nothing is. Raises UsageError, CrateError."""
        self._index = Index()
        self._places = places
        self._waiting: dict[int, Fingerprint | None] = {}
        """of pictures that came and are not in their places yet, by their rows"""
        self._known: list[tuple[Places, Entry]] = []
        """by their keys in the index"""
        self._new: set[int] = set()
        """rows whose files came in this run"""
        for entry in list(ledger.rows(State.HELD)):
            found = fingerprint_of(places, entry)
            if not is_known(entry):
                ledger.keep_fingerprint(entry.seq, found.as_text() if found is not None else _NONE)
            self._add(places, entry, found)
        for root in others:
            elsewhere = Places(root)
            with LedgerReader.opened(elsewhere, for_files=True) as reader:
                for entry in reader.rows(State.HELD):
                    self._add(elsewhere, entry, fingerprint_of(elsewhere, entry))

    def _add(self, places: Places, entry: Entry, found: Fingerprint | None) -> None:
        if found is not None:
            self._index.add(len(self._known), found)
            self._known.append((places, entry))

    def judge(self, seq: int, arrival: Arrival) -> "Judged":
        """Hold a picture that came against what is known.

        A twin that came in this run gives way to a better one; what was there before, and what another crate holds,
        stays as it is.
        """
        octets = Path(arrival.beside).read_bytes()
        found = self._waiting[seq] = fingerprint(octets)
        sides = [side.value if side is not None else 0 for side in (arrival.measures.width, arrival.measures.height)]
        own = (sides[0] * sides[1], arrival.measures.bytes.value if arrival.measures.bytes else 0)
        give_way: list[Entry] = []
        note = ""
        for places, entry in self._twins_of(found, octets):
            is_own = places is self._places
            if own <= quality(entry):
                where = "" if is_own else f" in {places.root.name}"
                said = f"like {entry.file}{where}, which is better ({entry.width}×{entry.height})"
                return Judged(Verdict(LeftOutBy.ALIKE, Ruling.DROP, said))
            if is_own and entry.seq in self._new:
                give_way.append(entry)
            else:
                note = f"like {entry.file} of before, which stays: pickcrate alike lists both"
        return Judged(give_way=tuple(give_way), note=note)

    def note(self, entry: Entry) -> Entry:
        """Take down a picture that is in its place; return its row with its fingerprint."""
        found = self._waiting.pop(entry.seq, None)
        entry = replace(entry, fingerprint=found.as_text() if found is not None else _NONE)
        self._new.add(entry.seq)
        self._add(self._places, entry, found)
        return entry

    def forget(self, entry: Entry) -> None:
        """Take back a picture that gave way."""
        self._new.discard(entry.seq)
        self._known = [(places, known if known.seq != entry.seq else _GONE) for places, known in self._known]

    def _twins_of(self, found: Fingerprint | None, octets: bytes) -> Iterator[tuple[Places, Entry]]:
        """Yield the twins of a picture that came, the likeliest first."""
        if found is None:
            return
        for key in self._index.near(found, TWINS)[:_MOST_COMPARED]:
            places, entry = self._known[key]
            other = fingerprint_of(places, entry) if entry is not _GONE else None
            if other is None or by_fingerprint(found, other) is not Likeness.TWINS:
                continue
            if look_the_same(octets, octets_of(places, entry)):
                yield places, entry


_GONE = Entry(0, "", "")


def remember(root: Path) -> None:
    """Write into a crate's ledger the fingerprints that it lacks; not where it cannot be written, or a run has it."""
    try:
        with Crate(root) as crate:
            for entry in [entry for entry in crate.ledger.rows(State.HELD) if not is_known(entry)]:
                crate.ledger.keep_fingerprint(entry.seq, seen_text(crate.places, entry))
    except (CrateError, OSError):
        return


def larger_twins(
    old: Places, before: Sequence[Holding], new: Places, now: Sequence[Holding]
) -> Iterator[tuple[int, int]]:
    """Yield which pictures of ``now`` are larger twins of which of ``before``, by their places; each at most once.

    By their fingerprints, and as they look when they are laid over each other. Nothing without NumPy.
    """
    try:
        index = Index()
    except UsageError:
        return
    prints = [from_text(one.fingerprint) for one in before]
    for place, known in enumerate(prints):
        if known is not None:
            index.add(place, known)
    taken: set[int] = set()
    for later, one in enumerate(now):
        found = from_text(one.fingerprint)
        for earlier in index.near(found, TWINS)[:_MOST_COMPARED] if found is not None else ():
            known = prints[earlier]
            if earlier in taken or known is None or found is None or one.pixels <= before[earlier].pixels:
                continue
            octets = octets_in(old, before[earlier].file), octets_in(new, one.file)
            if by_fingerprint(found, known) is Likeness.TWINS and look_the_same(*octets):
                taken.add(earlier)
                yield later, earlier
                break


def known_groups(entries: Sequence[Entry]) -> dict[int, int]:
    """Return the groups of twins among rows whose fingerprints are known: each row's number to its group's.

    What is in no group is left out; nothing without NumPy.
    """
    seen = [(entry.seq, found) for entry in entries if (found := from_text(entry.fingerprint)) is not None]
    group: dict[int, int] = {}
    try:
        for left, right in near_pairs([found for _, found in seen], TWINS) if seen else ():
            if by_fingerprint(seen[left][1], seen[right][1]) is Likeness.TWINS:
                first, second = seen[left][0], seen[right][0]
                group[first] = group[second] = group.get(first, group.get(second, first))
    except UsageError:
        return {}
    return group


def move_twins(found: Sequence[Sequence[Alike]], shelf: str) -> list[tuple[Path, str, str]]:
    """Move all twins but the best of each group to a sub-folder of their crate; return what was moved, and where.

    What is only perhaps alike stays. Raises CrateError.
    """
    of_crate: defaultdict[Path, list[Entry]] = defaultdict(list)
    for one in (one for group in found for one in group if one.likeness is Likeness.TWINS):
        if one.home.root is not None:
            of_crate[one.home.root].append(one.entry)
    moved: list[tuple[Path, str, str]] = []
    for root, entries in of_crate.items():
        with Crate(root) as crate:
            moved += [(root, entry.file, new) for entry in entries if (new := crate.shelve(entry, shelf))]
            crate.write_list()
    return moved


def groups(homes: Sequence[Home]) -> Iterator[list[Alike]]:
    """Yield the groups of pictures that are alike, in and across crates and stores: the best first, then the likeliest.

    What is only perhaps alike joins a group for a person to look at; nothing follows from it.
    """
    held: list[Alike] = []
    prints: list[Fingerprint] = []
    for home in homes:
        for entry, found in home.held():
            if found is None:
                continue
            held.append(Alike(home, replace(entry, fingerprint="")))
            prints.append(found if len(prints) < MOST_WITH_CROPS else found.bare)
            if len(prints) == MOST_WITH_CROPS + 1:  # of so many only wholes are held against each other
                prints = [one.bare for one in prints]

    order = sorted(range(len(held)), key=lambda place: quality(held[place].entry), reverse=True)  # the first stay first
    held, prints = [held[place] for place in order], [prints[place] for place in order]
    near: defaultdict[int, list[int]] = defaultdict(list)
    for left, right in near_pairs(prints, PERHAPS):
        near[left].append(right)
        near[right].append(left)
    taken: set[int] = set()
    for best in sorted(near):
        others = {} if best in taken else _alike_to(best, near[best], held, prints, taken)
        if others:  # who belongs to a better one is in no other group, and is laid over no other
            taken.update((best, *others))
            likeliest = sorted(others, key=lambda place: (others[place] is not Likeness.TWINS, place))
            yield [held[best], *(Alike(held[n].home, held[n].entry, others[n]) for n in likeliest)]


def _alike_to(
    best: int, near: list[int], held: list[Alike], prints: list[Fingerprint], taken: set[int]
) -> dict[int, Likeness]:
    """Return which of the pictures near the best of a group are alike to it, and how, by their places."""
    found: dict[int, Likeness] = {}
    view: View | None = None
    for other in near:
        likeness = by_fingerprint(prints[best], prints[other]) if other not in taken else Likeness.DIFFERENT
        if likeness is Likeness.TWINS:
            view = view or _view(held[best])
            if not are_seen_alike(view, _view(held[other])):
                likeness = Likeness.PERHAPS
        if likeness is not Likeness.DIFFERENT:
            found[other] = likeness
    return found


def _view(one: Alike) -> View | None:
    return view_of(one.home.octets(one.entry))
