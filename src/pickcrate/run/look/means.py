"""What one run's looking goes by: its order, what it reads through, and what it learns on the way."""

from typing import TYPE_CHECKING

from msgspec import Struct, field
from msgspec.structs import replace

from pickcrate.fetch.brought import Brought
from pickcrate.fetch.exchange import Fetcher
from pickcrate.fullsize.proof import Lessons
from pickcrate.orders.order import Order
from pickcrate.run.look.probes import Probes, measured_by_itself
from pickcrate.run.sources.opened import Expected, Opened
from pickcrate.sift import settle, sift
from pickcrate.values.image import Image
from pickcrate.values.trust import Trust
from pickcrate.values.wanted import KnownItems, Unsure

if TYPE_CHECKING:
    from pickcrate.run.look.holdings import Holdings


class Means(Struct, frozen=True):
    """The order of one look, what it reads through, and what is known of first bytes and of sites so far."""

    order: Order
    base: str
    fetcher: Fetcher
    brought: Brought
    lessons: Lessons = field(default_factory=Lessons)
    probes_of: dict[Trust, Probes] = field(default_factory=dict)
    holdings: "Holdings | None" = None
    """what the crate knows that the pictures are for"""
    is_inside: bool = False
    """whether it is a record that is looked at, which has what it has: nothing else is asked for"""
    is_listed: bool = False
    """whether it is the pages of a list that are looked into"""

    @property
    def expected(self) -> Expected:
        """What is known of the sources that others lead to."""
        return Expected(self.order.manners.max_file)

    def probes(self, opened: Opened) -> Probes:
        """Return what is known of first bytes on behalf of a source: another may have other bytes for an address."""
        return self.probes_of.setdefault(opened.trust, Probes(self.fetcher))

    def enlarge(self, images: list[Image], probes: Probes) -> list[Image]:
        """Return ``images`` with their larger versions sought and proved."""
        from pickcrate.run.look.contest import contest
        from pickcrate.run.look.proving import prove

        plain = [image for image in images if image.shown.tiling is None]
        larger = contest(plain, probes, self.lessons)
        larger = prove(larger, probes, self.lessons, self.order.rules)
        by_number = {image.number: image for image in larger}
        if self.order.through:
            from pickcrate.run.look.following import follow

            known = self._originals_in_crate(larger)
            rest = [image for image in larger if image.number not in known]
            followed = follow(rest, self.fetcher, probes, self.lessons, self.order.onward)
            by_number |= {image.number: image for image in (*known.values(), *followed)}
        return self.tiled([by_number.get(image.number, image) for image in images], probes)

    def tiled(self, images: list[Image], probes: Probes, *, full: bool = True) -> list[Image]:
        """Return ``images``, those that are kept in tiles with the largest version that can be had in front."""
        from pickcrate.run.look.tiled import tiled

        return tiled(images, self.fetcher, probes, self.order.max_pixels, full=full)

    def measured(self, images: list[Image], probes: Probes) -> list[Image]:
        """Return ``images`` with the sizes of those whose first bytes are there, so that nobody is asked for them."""
        waiting = [image for image in images if image.is_picked and _is_unmeasured(image)]
        told = {image.number: measured_by_itself(image) for image in waiting if image.url.startswith("data:")}
        wanted = [image for image in waiting if image.number not in told and self._is_at_hand(image)]
        if wanted:
            probes.read({image.url: image.best_asker for image in wanted})
            told |= {image.number: probes.measured(image) for image in wanted}
        return [told.get(image.number, image) for image in images] if told else images

    def sifted(self, images: list[Image], probes: Probes) -> list[Image]:
        """Return ``images`` with all verdicts; what is undecided is settled by its first bytes, in one batch.

        What a source brought along, lies beside a page or in it, or a browser has loaded is measured in any case.
        """
        criteria, sort = self.order.criteria, self.order.choice.sort
        images = self.measured(images, probes)  # a larger version may be at hand as well
        images = [sift(probes.measured(image), criteria) if image.is_picked else image for image in images]
        wanted = {image.number for image in images if image.is_picked and sort.is_unknown_of(image)}
        if self.order.measures_all:
            wanted |= {image.number for image in images if image.is_picked and _is_unmeasured(image)}
        if self.order.unsure is Unsure.SETTLE and criteria.needs_size:
            wanted |= {image.number for image in images if image.is_undecided}
        wanted -= {image.number for image in images if image.best.tiles}  # no address has those as they will be
        if wanted:
            undecided = [image for image in images if image.number in wanted]
            told = self.known_to_crate(undecided)
            probes.read({image.url: image.best_asker for image in undecided if image.number not in told})
            told |= {image.number: probes.measured(image) for image in undecided if image.number not in told}
            images = [sift(told[image.number], criteria) if image.number in told else image for image in images]
        return [settle(image, self.order.unsure) for image in images]

    def _originals_in_crate(self, images: list[Image]) -> dict[int, Image]:
        """Return by their numbers the images that are thumbnails of what the crate has, with that in front.

        Only where the pages of what it has are not to be visited again.
        """
        if self.holdings is None or self.order.known_items is not KnownItems.SKIP:
            return {}
        known = self.holdings.originals(image.shown.url for image in images)
        return {
            image.number: replace(image, candidates=(known[image.shown.url], *image.candidates))
            for image in images
            if image.shown.url in known
        }

    def known_to_crate(self, images: list[Image]) -> dict[int, Image]:
        """Return by their numbers the images that the crate has, or knows to be left out, with what they measure."""
        known = self.holdings.measures(image.url for image in images) if self.holdings is not None else {}
        return {image.number: image.measured(known[image.url]) for image in images if image.url in known}

    def as_listed(self, images: list[Image], probes: Probes) -> list[Image]:
        """Return the images of a list as it has them; of a tile description the picture that it describes."""
        from pickcrate.fullsize.description import is_description

        has_descriptions = any(is_description(image.url) for image in images)
        return self.tiled(images, probes, full=False) if has_descriptions else images

    def _is_at_hand(self, image: Image) -> bool:
        """Tell whether the first bytes of an image are there: nobody is asked for them."""
        return not image.best.tiles and self.brought.holds(image.url, image.best_asker.trust)


def _is_unmeasured(image: Image) -> bool:
    return image.best.measures.width is None
