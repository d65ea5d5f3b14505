"""The sift: criteria held against images, with what is known of them at the time. Called again when more is known."""

from msgspec.structs import replace

from pickcrate.sift.criteria import EARLY, JUDGES, Criteria
from pickcrate.values.image import Image, Ruling, Verdict
from pickcrate.values.wanted import Unsure

_NONE = Criteria()


def sift(image: Image, criteria: Criteria, *, early: bool = False) -> Image:
    """Return ``image`` with the verdicts of ``criteria``, in their order, up to the first that drops it.

    ``early`` leaves out the criteria that depend on which address is fetched, for while that is still sought.
    """
    if criteria == _NONE and not (image.declined or image.rights.bar or image.stranger or image.verdicts):
        return image
    verdicts: list[Verdict] = []
    for name, judge in JUDGES:
        if early and name not in EARLY:
            continue
        verdict = judge(image, criteria)
        if verdict is not None:
            verdicts.append(verdict)
            if verdict.ruling is Ruling.DROP:
                break
    return replace(image, verdicts=tuple(verdicts)) if verdicts or image.verdicts else image


def settle(image: Image, unsure: Unsure) -> Image:
    """Return ``image`` with what could not be known dropped, if that is what was asked."""
    if unsure is not Unsure.DROP or not image.is_undecided:
        return image
    verdicts = (
        replace(verdict, ruling=Ruling.DROP, reason=f"{verdict.reason}, and --unsure drop")
        if verdict.ruling is Ruling.UNSURE
        else verdict
        for verdict in image.verdicts
    )
    return replace(image, verdicts=tuple(verdicts))
