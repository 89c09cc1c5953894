"""What an event of a calendar says of dates and hours, in a cell."""

from __future__ import annotations

from eager_lens.core.incoming.calendars.reading import CalendarRow, Stretch
from eager_lens.core.recording.week import DAYS, Span, WeekPlan

MOST_STRETCHES_SHOWN = 3


def when_words(row: CalendarRow) -> str:
    """The dates and hours of an event."""
    dates = [stretch_words(one) for one in row.stretches[:MOST_STRETCHES_SHOWN]]
    if len(row.stretches) > MOST_STRETCHES_SHOWN:
        dates.append(f"{len(row.stretches) - MOST_STRETCHES_SHOWN} more")
    return "; ".join([*dates, *([plan_words(row.plan)] if row.plan is not None else [])])


def stretch_words(one: Stretch) -> str:
    """Dates as ``24 Dec to 26 Dec every year``, ``1 May 2026``."""
    if one.yearly and (one.first.month, one.first.day, one.last.month, one.last.day) == (1, 1, 12, 31):
        words = "all year"
    elif one.yearly:
        ends = [f"{day.day} {day:%b}" for day in (one.first, one.last)]
        words = " to ".join(dict.fromkeys(ends)) + " every year"
    else:
        words = " to ".join(dict.fromkeys(f"{day.day} {day:%b %Y}" for day in (one.first, one.last)))
    return words + (f", {', '.join(day.capitalize() for day in one.days)}" if one.days else "")


def plan_words(plan: WeekPlan) -> str:
    """Hours by day, days that are alike together: ``Mon to Fri 08:30–17:15``."""
    groups: list[tuple[list[str], tuple[Span, ...]]] = []
    for day in DAYS:
        spans = plan.of_day(day)
        if groups and groups[-1][1] == spans:
            groups[-1][0].append(day.capitalize())
        else:
            groups.append(([day.capitalize()], spans))
    return "; ".join(
        f"{days[0] if len(days) == 1 else f'{days[0]} to {days[-1]}'} {', '.join(map(_span, spans))}"
        for days, spans in groups
        if spans
    )


def _span(span: Span) -> str:
    return f"{span.start // 60:02}:{span.start % 60:02}–{span.end // 60:02}:{span.end % 60:02}"
