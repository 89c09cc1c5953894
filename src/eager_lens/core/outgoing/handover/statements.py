"""What a job's papers say of who records, for how long and for what purpose: worked out once, said alike on every sheet."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import erased
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.rates import cap_of
from eager_lens.core.assess.limits import keeps
from eager_lens.core.assess.rules.sizing import has_no_distance, misses_its_purpose
from eager_lens.core.job.model import Camera
from eager_lens.core.units import count, days_figure, figure
from eager_lens.core.validation import THRESHOLD_TOLERANCE

PURPOSE_WORDS = {
    "inspect": "to inspect every detail of a face",
    "identify": "to identify a person",
    "recognise": "to recognise a known person",
    "observe": "to observe what people do",
    "detect": "to detect that a person is there",
    "monitor": "to see how many people are there",
    "": "as agreed",
}
"""What a purpose of IEC 62676-4 means to a customer."""


class KeptPictures(NamedTuple):
    """How long pictures are kept.

    Attributes:
        recorded: cameras whose pictures are kept somewhere. nowhere: those whose are not, with why by id.
        asked_days: at least. promised_days: what can be promised on the recorder that keeps shortest of those that keep anything;
            None where pictures are kept on cards alone. most_days: at most, where that was asked. longest_days: the longest that
            any recorder may keep; None where none records. erases: every recorder that records erases in time for ``most_days``.
    """

    recorded: tuple[Camera, ...]
    nowhere: dict[str, str]
    asked_days: float
    promised_days: float | None
    most_days: float | None
    longest_days: float | None
    erases: bool


def kept(assessment: Assessment) -> KeptPictures:
    """How long pictures of a job are kept, and whose."""
    job, facts = assessment.job, assessment.facts
    nowhere = {camera.id: why for camera in job.cameras if (why := _why_nowhere(facts, camera))}
    recorded = tuple(camera for camera in job.cameras if camera.id not in nowhere)
    used = {place.recorder for camera in recorded for place in camera.registered}
    recorders = [one for one in job.recorders if one.id in used and facts.recorder_figures[one.id].keeps == "days"]
    longest = [erased(keeping.longest(), one) for one in recorders if (keeping := facts.keeping[one.id]) is not None]
    most = job.retention.most_days
    return KeptPictures(
        recorded,
        nowhere,
        job.retention.least_days,
        min(
            (days for one in recorders if (days := facts.recorder_figures[one.id].promised_days) is not None),
            default=None,
        ),
        most,
        max(longest, default=None),
        bool(recorders)
        and all(one.erase_after_days is not None and one.erase_after_days <= (most or math.inf) for one in recorders),
    )


def _why_nowhere(facts: Facts, camera: Camera) -> str:
    """Why no picture of a camera is kept; empty where some are."""
    if camera.card_gb > 0:
        return ""
    places = [place.recorder for place in camera.registered if place.recorder in facts.recorder_figures]
    if not places:
        return "no recorder"
    if not any(facts.recorder_figures[one].usable_tb > 0 for one in places):
        return "recorder without storage"
    if not facts.camera_figures[camera.id].gb_per_day > 0:
        return "no schedule that records"
    return ""


def kept_words(said: KeptPictures) -> str:
    """How long pictures are kept, in a sentence for offer, cover, customer and auditor alike; what is kept nowhere first."""
    asked = figure(said.asked_days)
    nowhere = ""
    if said.nowhere:
        why = Counter(said.nowhere.values())
        nowhere = f"Not recorded: {count(len(said.nowhere), 'camera')} ({'; '.join(why)})." + " "
    if not said.recorded:
        return nowhere + f"Nothing is recorded as planned; at least {asked} days are required."
    if said.promised_days is None:
        words = (
            f"At least {asked} days are required; recordings are kept on memory cards, whose days are not calculated."
        )
    elif keeps(said.promised_days, said.asked_days):
        words = f"At least {asked} days, with the drives and settings listed."
    else:
        words = f"{days_figure(said.promised_days)} days with the drives and settings listed; at least {asked} are required."
    return nowhere + words


def erased_words(said: KeptPictures) -> str:
    """How long pictures are kept at most, in a sentence; empty where nothing is recorded on a recorder."""
    if said.longest_days is None:
        return ""
    longest = figure(math.ceil(said.longest_days - 1e-9), 9)
    if said.most_days is None:
        return f"Up to {longest} days in quiet times; the oldest recordings are overwritten when the drives are full."
    most = figure(said.most_days)
    if said.longest_days <= said.most_days * (1 + THRESHOLD_TOLERANCE):
        return (
            f"At most {most} days: the recorders erase older recordings."
            if said.erases
            else (f"At most {most} days, because the drives hold no more.")
        )
    return f"Up to {longest} days in quiet times, but only {most} are allowed: set the recorders to erase."


def caps_words(said: KeptPictures) -> str:
    """The maximum bit rates that the days rest on; empty where no camera has one."""
    caps = sorted({cap for camera in said.recorded if (cap := cap_of(camera)) is not None})
    if not caps:
        return ""
    free = sum(cap_of(camera) is None for camera in said.recorded)
    most = figure(caps[-1]) if len(caps) == 1 else f"{figure(caps[0])} to {figure(caps[-1])}"
    return (
        f"Cameras are set to at most {most} Mb/s, {count(free, 'camera')} have no maximum; the days depend on that."
        if free
        else (f"Each camera is set to at most {most} Mb/s; the days depend on that.")
    )


def sign_words(said: KeptPictures) -> str:
    """The days that a sign states: the longest that a picture may be there."""
    if said.longest_days is None:
        return "…… days"
    return f"up to {figure(math.ceil(said.longest_days - 1e-09), 9)} days"


def purposes_words(assessment: Assessment, cameras: Iterable[Camera]) -> str:
    """What cameras are for, and how many of them do not reach it as planned: no sheet says what a finding denies."""
    missed = {camera.id for camera in assessment.facts.having(misses_its_purpose)}
    missed |= {camera.id for camera in assessment.facts.having(has_no_distance)}
    counted: Counter[tuple[str, bool]] = Counter()
    for camera in cameras:
        counted[camera.purpose, camera.id in missed] += 1
    parts = []
    for (purpose, is_missed), many in sorted(
        counted.items(), key=lambda one: (list(PURPOSE_WORDS).index(one[0][0]), one[0][1])
    ):
        words = f"{many} {PURPOSE_WORDS[purpose]}"
        parts.append(words + (" (too few pixels at this distance)" if is_missed else ""))
    return "; ".join(parts)
