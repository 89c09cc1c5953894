"""Findings about when cameras record."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.assess.facts import Facts
from eager_lens.core.assess.finding import Finding, Severity, names_listed
from eager_lens.core.assess.rules.kept import reads
from eager_lens.core.assess.seasons import may_run_short, season_figures
from eager_lens.core.job.edits import remove_seasons, remove_week, set_fields
from eager_lens.core.recording.year import overlaps
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_least


def no_week(facts: Facts) -> Iterator[Finding]:
    """A camera without a week records nothing."""
    # Without a week nothing is recorded, so these are among the few that record nothing.
    lost = [camera for camera in facts.with_trait["records nothing"] if camera.week not in facts.weeks]
    if not lost:
        return
    ids = tuple(camera.id for camera in lost)
    fix = None
    if len(facts.job.weeks) == 1:
        week = facts.job.weeks[0]
        fix = set_fields(ids, f"Give {count(len(ids), 'camera')} the week “{week.name}”", week=week.id)
    yield Finding(
        "no-week",
        Severity.FAULT,
        "week",
        f"{count(len(lost), 'camera')} without a week",
        f"{names_listed([camera.name for camera in lost])}: no hour is set in which they record.",
        "Choose a week for each." if facts.job.weeks else "Add a week, then apply it to the cameras.",
        ids,
        fix,
    )


def records_nothing(facts: Facts) -> Iterator[Finding]:
    """A week without an hour of recording, or movement hours in which nothing is expected to move."""
    idle = [week for week in facts.job.weeks if facts.week_hours[week.id]["idle"] == 168]
    used = {camera.week for camera in facts.job.cameras} if idle else set()
    for week in (week for week in idle if week.id in used):
        yield Finding(
            "empty-week",
            Severity.FAULT,
            "week",
            f"The week “{week.name}” records nothing",
            "All its 168 h are idle, so its cameras keep no picture.",
            "Paint the hours in which they record.",
            (week.id,),
        )
    silent = [
        camera
        for camera in facts.with_trait["records nothing"]
        if camera.week in facts.weeks and facts.week_hours[camera.week]["idle"] < 168
    ]
    if silent:
        yield Finding(
            "records-nothing",
            Severity.FAULT,
            "week",
            f"{names_listed([camera.name for camera in silent])} would record nothing",
            "The week records on events only, and none an hour are expected.",
            "Give the events expected an hour, or paint hours of the mode always.",
            tuple(camera.id for camera in silent),
        )


@reads("weeks", "seasons", "cameras.week")
def unused_week(facts: Facts) -> Iterator[Finding]:
    """A week that no camera has."""
    used = {camera.week for camera in facts.job.cameras} | {season.week for season in facts.job.seasons}
    for week in facts.job.weeks:
        if week.id not in used and facts.job.cameras:
            yield Finding(
                "unused-week",
                Severity.NOTE,
                "week",
                f"No camera has the week “{week.name}”",
                "It would stand on the handover sheet without a use.",
                "Apply it to cameras, or take it out.",
                (week.id,),
                remove_week(week.id),
            )


def seasons_wrong(facts: Facts) -> Iterator[Finding]:
    """Seasons that lead to a week that is not there, and seasons that want one date."""
    seasons = facts.job.seasons
    lost = [one for one in seasons if one.week not in facts.weeks]
    for season in lost:
        yield Finding(
            "season-without-week",
            Severity.FAULT,
            "week",
            f"“{season.name}” leads to no week",
            "While it lasts, its cameras would have no hours in which they record.",
            "Choose the week that holds then, or take the season out.",
            (season.id,),
            remove_seasons([season.id]),
        )
    years = {day.year for one in seasons for day in (one.first, one.last)}
    names = {season.id: season.name for season in seasons}
    told: set[tuple[str, str]] = set()
    for year in sorted(years)[:10]:
        for one, other, day in overlaps(tuple(season.as_dates() for season in seasons), year):
            if (one.id, other.id) not in told:
                told.add((one.id, other.id))
                yield Finding(
                    "seasons-overlap",
                    Severity.NOTE,
                    "week",
                    f"“{names[one.id]}” and “{names[other.id]}” overlap",
                    f"From {day.day} {day:%B} both want the day; the later one in the list, “{names[other.id]}”, holds.",
                    "Let them follow each other, or leave it if that is meant.",
                    (one.id, other.id),
                )


def season_stores_more(facts: Facts) -> Iterator[Finding]:
    """A season in which a recorder that keeps its days otherwise would not."""
    least = facts.job.retention.least_days
    for one in season_figures(facts, may_run_short(facts)) if facts.job.seasons else ():
        if one.days is not None and not at_least(one.days, least):
            yield Finding(
                "season-short",
                Severity.DOUBT,
                "week",
                f"{one.recorder.name} keeps {figure(one.days)} days in “{one.season.name}”",
                f"{figure(one.gb_per_day)} GB a day are stored then; {figure(least)} days were asked. It counts when the season is "
                "longer than that.",
                "Record less in that season, or add drives.",
                (one.season.id, one.recorder.id),
            )


RULES = (no_week, records_nothing, unused_week, seasons_wrong, season_stores_more)
