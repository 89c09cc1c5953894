"""What a trial came to, in sentences."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from eager_lens.core.motion.outcome import Outcome
from eager_lens.core.recording.clips import recorded_share
from eager_lens.core.recording.week import DAY_WORDS, DAYS
from eager_lens.core.tried_rule.after import events_of
from eager_lens.core.tried_rule.tried import Looked
from eager_lens.core.units import count, figure

MANY_PER_H = 5.0
"""False alarms an hour above which their cause is named first."""


def day_name(weekday: int) -> str:
    """A day of the week in three letters; Monday is 0."""
    return DAY_WORDS[DAYS[weekday]][:3]


def headline(looked: Looked) -> str:
    """The outcome as a sentence, with its sampling error."""
    if looked.days:
        worst = max(looked.days, key=lambda day: day.outcome.false_per_h)
        mean = sum(day.outcome.false_per_h for day in looked.days) / len(looked.days)
        visits = sum(len(day.outcome.visits) for day in looked.days)
        unseen = sum(len(day.outcome.missed) for day in looked.days)
        return (
            f"{figure(mean, 2)} false alarms an hour over a windy week, {figure(worst.outcome.false_per_h, 2)} on "
            f"{day_name(worst.weekday)} at {figure(worst.wind_m_per_s, 2)} m/s; {unseen} of {count(visits, 'visit')} missed"
        )
    outcome = looked.outcome
    if outcome is None:
        return ""
    first = next(iter(outcome.by_cause()), None)
    false = f"{figure(outcome.false_per_h)} ± {figure(outcome.false_error, 2)} false alarms an hour"
    missed = (
        f"{len(outcome.missed)} of {count(len(outcome.visits), 'visit')} missed (± {figure(100 * outcome.missed_error, 2)} %)"
        if outcome.visits
        else "no person or vehicle came that it should detect"
    )
    many = outcome.false_per_h > MANY_PER_H
    why = "" if not many or first is None else f"{first} triggers it most: "
    if first == "not marked":
        why = "it triggers where nobody is marked: " if many else ""
    return f"{why}{false}, {missed}"


def causes(outcomes: Sequence[Outcome]) -> str:
    """False alarms by what caused them, of one trial or of the days of a week."""
    watched = f"{figure(sum(one.watched_s for one in outcomes) / 60)} min"
    times: Counter[str] = Counter()
    for one in outcomes:
        times.update(one.by_cause())
    if not times:
        return f"No false alarm in {watched}."
    return f"False alarms in {watched}: " + ", ".join(f"{many} by {cause}" for cause, many in times.most_common()) + "."


def recorded(outcome: Outcome, pre_s: float, post_s: float, rate_mbps: float) -> str:
    """Clips, recorded share and GB of the whole time, beside what the closed formula makes of as many events at random."""
    clips = outcome.clips(pre_s, post_s)
    share = min(1.0, sum(ends - begins for begins, ends in clips) / outcome.watched_s)
    per_h, event_s = events_of(outcome)
    formula = recorded_share(per_h, event_s, pre_s, post_s)
    gb = share * outcome.watched_s * rate_mbps / 8000
    return (
        f"{count(len(clips), 'clip')}, {figure(100 * share)} % recorded, {figure(gb)} GB. The formula gives "
        f"{figure(100 * formula)} % for {figure(per_h)} random events an hour of {figure(event_s, 2)} s."
    )
