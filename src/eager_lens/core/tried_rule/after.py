"""How many seconds to record after an event, from the gaps between the triggers of one and the same visit.

Too few cut a visit into fragments; too many are continuous recording by another name.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from eager_lens.core.motion.outcome import Outcome, clips_of
from eager_lens.core.motion.small import FPS
from eager_lens.core.recording.clips import recorded_share

AFTER_S = (0.0, 2.0, 5.0, 10.0, 15.0, 20.0, 30.0, 45.0)

IN_ONE_CLIP = 0.95
"""The after-time is long enough when so many of the visits are one clip ..."""

JOINED_S = 2.0

LEAST_AFTER_S = 5.0
"""... and never under this, since somebody who stands still is not seen to move (assumed)."""


class After(NamedTuple):
    """An after-time: mean number of clips that a visit falls into, share of the visits in one clip, and share of the time
    that is recorded."""

    post_s: float
    fragments: float
    in_one_clip: float
    recorded: float


def gaps_of(outcome: Outcome) -> list[list[float]]:
    """For each visit that was caught, the seconds between one trigger and the next."""
    times: dict[object, list[float]] = {}
    for one in (*outcome.triggers, *outcome.of_visits):
        if one.visit is not None:
            times.setdefault(one.visit, []).append(one.at_s)
    return [np.diff(sorted(set(moments))).tolist() for moments in times.values()]


def after_times(outcome: Outcome, pre_s: float, per_h: float, event_s: float) -> tuple[After, ...]:
    """What each after-time does. Two triggers are in one clip when the gap between them is no longer than before and after
    together. The recorded share is that of the clips where every picture was looked at; else by the closed formula for
    ``per_h`` events an hour of ``event_s`` seconds at random."""
    gaps = gaps_of(outcome)
    found = []
    for post_s in AFTER_S:
        fragments = [1 + sum(gap > pre_s + post_s + 1 / FPS for gap in some) for some in gaps]
        if outcome.is_whole:
            recorded = sum(ends - begins for begins, ends in outcome.clips(pre_s, post_s)) / outcome.watched_s
        else:
            recorded = recorded_share(per_h, event_s, pre_s, post_s)
        mean = sum(fragments) / len(fragments) if fragments else 1.0
        whole = sum(one == 1 for one in fragments) / len(fragments) if fragments else 1.0
        found.append(After(post_s, mean, whole, min(1.0, recorded)))
    return tuple(found)


def sensible_after_s(times: Sequence[After]) -> After:
    """The shortest after-time that leaves nearly every visit in one clip; the longest where none does."""
    return next((one for one in times if one.post_s >= LEAST_AFTER_S and one.in_one_clip >= IN_ONE_CLIP), times[-1])


def events_of(outcome: Outcome) -> tuple[float, float]:
    """Events an hour and how long one lasts, as the closed formula takes them; triggers no farther apart than ``JOINED_S``
    are one event. Of a sample: the false ones of its stretches, and visits at the rate at which they come, by the share
    that was caught."""
    if not outcome.watched_s:
        return 0.0, 0.0
    triggers = outcome.triggers
    visits_per_h = visit_s = 0.0
    if outcome.visits_per_h:
        triggers = tuple(one for one in triggers if one.visit is None)
        seen = [sum(gaps) + 1 / FPS for gaps in gaps_of(outcome)]
        visits_per_h = outcome.visits_per_h * (1 - outcome.missed_share)
        visit_s = sum(seen) / len(seen) if seen else 0.0
    events = clips_of(triggers, 0.0, JOINED_S)
    others_per_h = len(events) * 3600 / outcome.watched_s
    others_s = sum(ends - begins - JOINED_S for begins, ends in events) / max(1, len(events))
    per_h = visits_per_h + others_per_h
    return per_h, (visits_per_h * visit_s + others_per_h * others_s) / per_h if per_h else 0.0
