"""Days with people and without: continuous while they are there, on motion else."""

from __future__ import annotations

from eager_lens.core.recording.week import DAYS, MINUTES_A_DAY, Span, WeekPlan

ON_MOTION = (Span(0, MINUTES_A_DAY, "motion"),)


def open_day(opens_min: int, closes_min: int) -> tuple[Span, ...]:
    """A day with people from one minute to another; hours may go over midnight."""
    if opens_min < closes_min:
        spans = (
            Span(0, opens_min, "motion"),
            Span(opens_min, closes_min, "continuous"),
            Span(closes_min, MINUTES_A_DAY, "motion"),
        )
    else:
        spans = (
            Span(0, closes_min, "continuous"),
            Span(closes_min, opens_min, "motion"),
            Span(opens_min, MINUTES_A_DAY, "continuous"),
        )
    return tuple(span for span in spans if span.start < span.end)


def every_day(spans: tuple[Span, ...]) -> WeekPlan:
    """A week of such days."""
    return WeekPlan(**dict.fromkeys(DAYS, spans))
