"""What seasons do to recorders: GB a day and days kept while each of them lasts."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from eager_lens.core.assess.facts import Facts
from eager_lens.core.assess.figures import NO_HOURS, camera_figures, recorder_figures
from eager_lens.core.job.model import Recorder, Season


class SeasonFigures(NamedTuple):
    """A recorder while a season lasts: GB a day, and days that it would keep if the season never ended; None: no limit."""

    season: Season
    recorder: Recorder
    gb_per_day: float
    days: float | None


def season_figures(facts: Facts, seasons: Iterable[Season] | None = None) -> list[SeasonFigures]:
    """For each season and each recorder that it touches: what is stored while it lasts."""
    told = facts.job.assumed.as_assumed()
    found = []
    for season in facts.job.seasons if seasons is None else seasons:
        hours = facts.week_hours.get(season.week, NO_HOURS)
        for recorder in facts.job.recorders:
            streams, touched = [], False
            for camera in facts.cameras_on[recorder.id]:
                if camera.week in facts.weeks and season.instead_of in ("", camera.week) and camera.week != season.week:
                    streams.append(camera_figures(camera, hours, told))
                    touched = True
                else:
                    streams.append(facts.camera_figures[camera.id])
            if touched:
                got = recorder_figures(recorder, streams)
                found.append(SeasonFigures(season, recorder, got.gb_per_day, got.days))
    return found
