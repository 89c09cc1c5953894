"""A drawn scene of a fixed camera with ground truth: people and vehicles on the ground, and all that only looks like it."""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Callable, Iterator, Sequence
from copy import copy
from typing import NamedTuple, Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from eager_lens.core.motion import drawing
from eager_lens.core.motion.lens import GroundBox, Lens, Picture, lens_with
from eager_lens.core.motion.looks import drawn
from eager_lens.core.motion.small import HIGH, WIDE
from eager_lens.core.motion.source import Blame, Visit
from eager_lens.core.motion.view import SPEEDS_M_PER_S, Cause, Passage, View

DAWN_H, DUSK_H = 6.0, 19.5
"""By day from one to the other, with an hour of twilight at each (assumed)."""

DAY_S = 86_400

NOON_S = 12.5 * 3600

NEAR_PX = 4.0
"""An area so near to somebody is taken for that one."""

ACROSS = np.linspace(0, 1, WIDE, dtype=np.float32)

LONGEST_VISIT_S, LONGEST_CAUSE_S = 120.0, 400.0

COME_BACK, LONGEST_BACK_S = 0.35, 45.0
"""Share of those on such a way who step out of sight and back, and how long they stay away at most (assumed)."""

THURSDAY = 3
"""The day of the week that is drawn when none is asked for: trams run and the staff is in."""


class Disturbance(NamedTuple):
    """Something that only looks like motion: cause, when, and where (in pixels)."""

    cause: Cause
    begins_s: float
    ends_s: float
    box: GroundBox


class _Lasting(Protocol):
    @property
    def begins_s(self) -> float: ...
    @property
    def ends_s(self) -> float: ...


L = TypeVar("L", bound=_Lasting)


def daylight(hour: float) -> float:
    """0 by night, 1 by day, between them at dawn and dusk."""
    rising = (hour - (DAWN_H - 0.5)) / 1.0
    falling = ((DUSK_H + 0.5) - hour) / 1.0
    return float(min(1.0, max(0.0, min(rising, falling))))


def lens_of(view: View) -> Lens:
    """The geometry of a view."""
    return lens_with(view.view_deg, view.horizon, view.height_m)


class DrawnScene:
    """A day of a view, the same again for the same seed: what comes when, and pictures of any moment."""

    def __init__(self, view: View, seed: int, weekday: int = THURSDAY) -> None:
        self.view, self.lens, self.weekday = view, lens_of(view), weekday
        self.duration_s = float(DAY_S)
        chance = np.random.default_rng(seed)
        look = np.random.default_rng(20_260_101)  # the place itself is the same on every day
        self._day = drawing.empty_place(view, self.lens, look)
        self._leaves = [drawing.clumps(look) for _ in view.foliage]
        noise = chance.standard_normal((48, HIGH, WIDE), dtype=np.float32)
        self._noise = np.concatenate((noise, noise), axis=2)  # twice side by side: any stretch of it is a picture
        come = (visit for passage in view.passages for visit in _visits_on(passage, weekday, chance))
        clothed = np.random.default_rng((seed, 1))  # of its own: who comes when is the same whatever they wear
        self.visits: Sequence[Visit] = [
            visit._replace(looks=drawn(visit.kind, clothed)) for visit in sorted(come, key=lambda one: one.begins_s)
        ]
        self.disturbances = self._drawn_disturbances(chance)
        self._gusts = drawing.slow_noise(chance, DAY_S // 20)
        self._clouds = drawing.slow_noise(chance, DAY_S // 20)
        self._shift = int(chance.integers(0, 10_000))
        self._known: tuple[float, list[tuple[Visit, GroundBox]]] = (-1.0, [])
        self._px_per_deg = WIDE / view.view_deg

    # ---- what comes ----------------------------------------------------------------------------------------------

    def _drawn_disturbances(self, chance: np.random.Generator) -> list[Disturbance]:
        """Insects and headlights by night, lamps at any time."""
        weather, horizon = self.view.weather, self.lens.horizon_px
        found: list[Disturbance] = []

        def insect(begins: float) -> None:
            x, y, size = chance.uniform(0, WIDE), chance.uniform(0, HIGH), chance.uniform(5, 16)
            ends = begins + chance.uniform(0.4, 1.4)
            found.append(Disturbance("insect", begins, float(ends), GroundBox(x, y, x + size, y + size)))

        def headlight(begins: float) -> None:
            ends = begins + chance.uniform(2, 5)
            found.append(Disturbance("headlight", begins, float(ends), GroundBox(0, horizon + 4, WIDE, horizon + 38)))

        def lamp(begins: float) -> None:
            lit = self.view.lamps[int(chance.integers(len(self.view.lamps)))]
            ends = begins + chance.uniform(40, LONGEST_CAUSE_S)
            found.append(Disturbance("light", begins, float(ends), GroundBox(*drawing.pixels_of(lit))))

        for hour in range(24):
            dark = 1 - daylight(hour + 0.5)
            rates: tuple[tuple[Callable[[float], None], float], ...] = (
                (insect, weather.insects_per_h * dark),
                (headlight, weather.headlights_per_h * dark),
                (lamp, weather.lamp_switches_per_h if self.view.lamps else 0.0),
            )
            for make, rate in rates:
                for begins in _arrivals(chance, hour, rate):
                    make(begins)
        return sorted(found, key=lambda one: one.begins_s)

    def with_visits(self, visits: Sequence[Visit]) -> DrawnScene:
        """The same day with others who come, in the order of their beginnings."""
        other = copy(self)
        other.visits = visits
        other._known = (-1.0, [])
        return other

    def box_of(self, visit: Visit, at_s: float) -> GroundBox | None:
        """Where somebody is seen at a moment; None outside the picture."""
        box = self.lens.box(visit.kind, *visit.at(at_s), visit.looks.tall_m if visit.looks is not None else None)
        return box if box.right > 1 and box.left < WIDE - 1 else None

    def seen(self, at_s: float) -> list[tuple[Visit, GroundBox]]:
        """Who is seen at a moment, and where; those outside the picture are not."""
        # Asked for each area of a picture.
        if self._known[0] != at_s:
            boxes = ((visit, self.box_of(visit, at_s)) for visit in _going_on(self.visits, at_s, LONGEST_VISIT_S))
            self._known = (at_s, [(visit, box) for visit, box in boxes if box is not None])
        return self._known[1]

    def causes(self, at_s: float) -> list[Disturbance]:
        """What disturbs at a moment, besides wind, rain and shake, which always do where there are any."""
        return list(_going_on(self.disturbances, at_s, LONGEST_CAUSE_S))

    def blame(self, at_s: float, box: GroundBox) -> Blame:
        """Whose an area is: somebody's who is there, else what disturbs just there, else the weather's."""
        for visit, there in self.seen(at_s):
            if box.touches(there, NEAR_PX):
                return Blame(visit, None) if visit.counts else Blame(None, "small animal")
        for one in self.causes(at_s):
            if one.cause == "insect" or box.touches(one.box, NEAR_PX):
                return Blame(None, one.cause)
        places: tuple[tuple[Cause, tuple[tuple[float, float, float, float], ...]], ...] = (
            ("foliage", self.view.foliage),
            ("flag", self.view.flags),
            ("light", self.view.lamps),
        )
        for cause, several in places:
            if any(box.touches(GroundBox(*drawing.pixels_of(place)), NEAR_PX) for place in several):
                return Blame(None, cause)
        weather = self.view.weather
        if weather.snow_mm_per_h:
            return Blame(None, "snow")
        if weather.rain_mm_per_h:
            return Blame(None, "rain")
        if weather.cloud > 0.3 and not self.view.indoors and daylight(at_s / 3600 % 24):
            return Blame(None, "cloud")
        return Blame(None, "shake" if weather.shake_deg else "noise")

    # ---- pictures ------------------------------------------------------------------------------------------------

    def picture(self, at_s: float) -> Picture:
        """The picture of a moment of the day."""
        weather, indoors = self.view.weather, self.view.indoors
        light = 1.0 if indoors else daylight(at_s / 3600 % 24)
        level = 0.32 + 0.68 * light
        burst = max(0.0, math.sin(0.31 * at_s) * math.sin(0.047 * at_s + self._shift))
        gust = max(0.0, weather.wind_m_per_s * (0.7 + 0.5 * _of(self._gusts, at_s) + 0.9 * burst))
        frame = self._day * np.float32(level)
        if weather.cloud and not indoors and light:
            frame *= self._shadow(at_s, weather.cloud, light)
        for place, texture in zip(self.view.foliage, self._leaves, strict=True):
            drawing.sway(frame, place, texture, at_s, gust, level)
        for place in self.view.flags:
            drawing.flutter(frame, place, at_s, gust, level)
        for one in self.causes(at_s):
            self._disturb(frame, one, at_s)
        for visit, box in self.seen(at_s):
            shades = drawing.shades_of(visit, self.lens.away_m(box.bottom), light > 0.5 or indoors)
            drawing.figure_on(frame, visit.kind, box, shades, at_s)
        if weather.rain_mm_per_h:
            drops = np.random.default_rng(int(at_s * 1000) + self._shift)
            drawing.rain(frame, weather.rain_mm_per_h, light, drops)
        if weather.snow_mm_per_h:
            drawing.snow(frame, weather.snow_mm_per_h, gust, light, at_s + self._shift)
        if weather.shake_deg:
            swing = weather.shake_deg * self._px_per_deg * gust / 8
            frame = drawing.shifted(frame, swing * math.sin(7.3 * at_s) * math.sin(1.7 * at_s + 1))
        noise = weather.noise_day * light + weather.noise_night * (1 - light)
        left = int(at_s * 911) % WIDE
        frame += np.float32(noise) * self._noise[int(at_s * 25 + self._shift) % len(self._noise), :, left : left + WIDE]
        seen: Picture = np.clip(frame, 0, 255, out=frame)
        return seen

    def _shadow(self, at_s: float, cloud: float, light: float) -> NDArray[np.float32]:
        """How much light gets through at each column: shadows of clouds cross the picture in some 20 s."""
        here, behind = _of(self._clouds, at_s), _of(self._clouds, at_s - 20)
        across = np.float32(here) + ACROSS * np.float32(behind - here)
        dark: NDArray[np.float32] = 1 - np.float32(0.4 * cloud * light) * np.clip(
            across + np.float32(cloud - 0.5), 0, 1
        )
        return dark

    @staticmethod
    def _disturb(frame: Picture, one: Disturbance, at_s: float) -> None:
        share = (at_s - one.begins_s) / (one.ends_s - one.begins_s)
        box = one.box
        if one.cause == "insect":
            x, y = box.left + 34 * share, box.top + 14 * math.sin(9 * share)
            drawing.ellipse(frame, GroundBox(x, y, x + box.right - box.left, y + box.bottom - box.top), 215.0)
        elif one.cause == "headlight":
            x = -40 + share * (WIDE + 80)
            drawing.ellipse(frame, GroundBox(x, box.top, x + 46, box.bottom), 70.0, add=True)
        else:
            x0, y0, x1, y1 = (round(value) for value in box)
            frame[y0:y1, x0:x1] *= 1.35


def _arrivals(chance: np.random.Generator, hour: int, per_h: float) -> list[float]:
    """Moments of an hour at which something comes, at random (Poisson)."""
    return [float(one) for one in chance.uniform(hour * 3600, (hour + 1) * 3600, chance.poisson(per_h))]


def _visits_on(passage: Passage, weekday: int, chance: np.random.Generator) -> Iterator[Visit]:
    """Who comes along a way on a day: at random, in either direction, somewhat to the side and at a pace of its own."""
    long_s = math.dist(passage.start, passage.end) / SPEEDS_M_PER_S[passage.kind]
    for hour in range(24):
        for begins in _arrivals(chance, hour, passage.arrivals_per_h(hour, weekday, daylight(hour + 0.5))):
            sway, pace = float(chance.normal(0, 0.6)), float(chance.uniform(0.75, 1.3))
            first, last = (passage.start, passage.end) if chance.random() < 0.5 else (passage.end, passage.start)
            start, end = ((across, max(3.5, away + sway)) for across, away in (first, last))
            lasts_s, back_s = long_s / pace, 0.0
            if passage.back_s and chance.random() < COME_BACK:
                back_s = min(LONGEST_BACK_S, float(chance.exponential(passage.back_s)))
                lasts_s = 2 * lasts_s + back_s
            yield Visit(passage.kind, begins, begins + lasts_s, start, end, passage.counts, back_s)


def _going_on(items: Sequence[L], at_s: float, longest_s: float) -> Iterator[L]:
    """Items that go on at a moment; they stand in the order of their beginnings."""
    low = bisect_left(items, at_s - longest_s, key=lambda one: one.begins_s)
    while low < len(items) and items[low].begins_s <= at_s:
        if at_s < items[low].ends_s:
            yield items[low]
        low += 1


def _of(series: NDArray[np.float32], at_s: float) -> float:
    at = at_s / 20 % len(series)
    low = int(at)
    return float(series[low] * (1 - (at - low)) + series[(low + 1) % len(series)] * (at - low))
