"""Where a drawn camera stands and what comes along there, in metres and arrivals an hour."""

from __future__ import annotations

from typing import Literal, NamedTuple

from eager_lens.core.values.kinds import Kind
from eager_lens.core.values.weather import Weather

Cause = Literal[
    "foliage",
    "flag",
    "insect",
    "headlight",
    "rain",
    "snow",
    "cloud",
    "light",
    "shake",
    "noise",
    "small animal",
    "not marked",
]

SIZES_M: dict[Kind, tuple[float, float]] = {
    "person": (0.6, 1.75),
    "cyclist": (1.7, 1.75),
    "vehicle": (4.2, 1.5),
    "tram": (9.0, 3.2),
    "animal": (0.45, 0.3),
}
"""Width and height in metres, seen from the side (assumed)."""

SPEEDS_M_PER_S: dict[Kind, float] = {"person": 1.3, "cyclist": 4.0, "vehicle": 5.0, "tram": 3.0, "animal": 1.8}

Place = tuple[float, float, float, float]
"""A box of the picture in shares of its width and height: left, top, right, bottom."""

ALL_DAYS = (0, 1, 2, 3, 4, 5, 6)


class Passage(NamedTuple):
    """A way over the ground, from one point to another: metres across (left negative) and away, and who comes how often.

    Attributes:
        per_h_by_day, per_h_by_night: arrivals an hour.
        counts: whether they are to be caught.
        hours: (from, to, arrivals an hour) that stand in the place of both, for opening hours and timetables.
        back_s: mean wait of those who come back the same way, out of sight; 0: nobody does.
        days: days of the week on which those come, Monday is 0; on the others nobody comes by ``hours``.
    """

    kind: Kind
    start: tuple[float, float]
    end: tuple[float, float]
    per_h_by_day: float
    per_h_by_night: float
    counts: bool = True
    hours: tuple[tuple[float, float, float], ...] = ()
    days: tuple[int, ...] = ALL_DAYS
    back_s: float = 0.0

    def arrivals_per_h(self, hour: int, weekday: int, light: float) -> float:
        """Arrivals in an hour of a day of the week; ``light`` is 0 by night and 1 by day."""
        usual = self.per_h_by_day * light + self.per_h_by_night * (1 - light)
        if not self.hours or weekday not in self.days:
            return usual
        return next((per_h for begins, ends, per_h in self.hours if begins <= hour < ends), usual)


class View(NamedTuple):
    """A scene: the camera's height and field, the horizon (share of the height), what stands there and what comes.

    Attributes:
        foliage, flags: what moves in the wind. lamps: what lamps light when they are switched.
        houses: what stands still behind. rails_m: tracks that run away from the camera, by their middle in metres across.
        indoors: no daylight, and no sky.
    """

    name: str
    words: str
    height_m: float
    view_deg: float
    horizon: float
    passages: tuple[Passage, ...]
    foliage: tuple[Place, ...] = ()
    flags: tuple[Place, ...] = ()
    lamps: tuple[Place, ...] = ()
    houses: tuple[Place, ...] = ()
    rails_m: tuple[float, ...] = ()
    weather: Weather = Weather()
    indoors: bool = False
