"""A drawn scene of a fixed camera with ground truth: people and vehicles on the ground, and all that only looks like it.

Pictures are grey, 160 by 90, in levels of 0 to 255 as 32-bit floats. A pinhole camera looks over flat ground: a foot at d
metres stands ``focal_px x height / d`` pixels under the horizon, and what is H metres tall is ``focal_px x H / d`` tall.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from eager_lens.core.motion.view import SIZES_M, SPEEDS_M_PER_S, Cause, Kind, View

WIDE, HIGH = 160, 90

Picture = NDArray[np.float32]

DAWN_H, DUSK_H = 6.0, 19.5
"""By day from one to the other, with an hour of twilight at each (assumed)."""

INFRARED_REACH_M = 25.0


class Visit(NamedTuple):
    """Something that comes along: kind, when (seconds from the start of the day), and its way in metres."""

    kind: Kind
    begins_s: float
    ends_s: float
    start: tuple[float, float]
    end: tuple[float, float]
    counts: bool


class Disturbance(NamedTuple):
    """Something that only looks like movement: cause, when, and where (left, top, right, bottom in pixels)."""

    cause: Cause
    begins_s: float
    ends_s: float
    box: tuple[float, float, float, float]


class Box(NamedTuple):
    """Where something is seen, in pixels."""

    left: float
    top: float
    right: float
    bottom: float


def daylight(hour: float) -> float:
    """0 by night, 1 by day, between them at dawn and dusk."""
    rising = (hour - (DAWN_H - 0.5)) / 1.0
    falling = ((DUSK_H + 0.5) - hour) / 1.0
    return float(min(1.0, max(0.0, min(rising, falling))))


@dataclass(frozen=True)
class Lens:
    """The camera's geometry on the picture."""

    focal_px: float
    horizon_px: float
    height_m: float

    def foot(self, across_m: float, away_m: float) -> tuple[float, float]:
        """Where a point of the ground is seen."""
        return WIDE / 2 + self.focal_px * across_m / away_m, self.horizon_px + self.focal_px * self.height_m / away_m

    def away_m(self, row_px: float) -> float:
        """How far off the ground is that is seen in a row; far off at the horizon and above."""
        under = row_px - self.horizon_px
        return self.focal_px * self.height_m / under if under > 0.5 else 10_000.0

    def box(self, kind: Kind, across_m: float, away_m: float) -> Box:
        """Where something of a kind is seen that stands there."""
        wide_m, high_m = SIZES_M[kind]
        x, y = self.foot(across_m, away_m)
        half, high = self.focal_px * wide_m / away_m / 2, self.focal_px * high_m / away_m
        return Box(x - half, y - high, x + half, y)


def lens_of(view: View) -> Lens:
    """The geometry of a view."""
    return Lens(WIDE / 2 / math.tan(math.radians(view.view_deg) / 2), view.horizon * HIGH, view.height_m)


class Scene:
    """A day of a view, the same again for the same seed: what comes when, and pictures of any moment."""

    def __init__(self, view: View, seed: int) -> None:
        self.view, self.lens = view, lens_of(view)
        chance = np.random.default_rng(seed)
        self._look = np.random.default_rng(20_260_101)  # the place itself is the same on every day
        self._day = self._ground()
        self._leaves = [self._clumps() for _ in view.foliage]
        self._noise = chance.standard_normal((48, HIGH, WIDE), dtype=np.float32)
        self.visits = self._drawn_visits(chance)
        self.disturbances = self._drawn_disturbances(chance)
        self._gusts = _slow_noise(chance, 86_400 // 20)
        self._clouds = _slow_noise(chance, 86_400 // 20)
        self._shift = chance.integers(0, 10_000)

    # ---- what comes ----------------------------------------------------------------------------------------------

    def _drawn_visits(self, chance: np.random.Generator) -> list[Visit]:
        """Arrivals at random (Poisson), by day and by night, for every way."""
        visits = []
        for way in self.view.ways:
            length = math.dist(way.start, way.end)
            long_s = length / SPEEDS_M_PER_S[way.kind]
            for hour in range(24):
                light = daylight(hour + 0.5)
                rate = way.per_h_by_day * light + way.per_h_by_night * (1 - light)
                for begins in chance.uniform(hour * 3600, (hour + 1) * 3600, chance.poisson(rate)):
                    sway = float(chance.normal(0, 0.6))
                    start, end = (way.start, way.end) if chance.random() < 0.5 else (way.end, way.start)
                    shifted = [(across, max(3.5, away + sway)) for across, away in (start, end)]
                    pace = float(chance.uniform(0.75, 1.3))
                    visits.append(
                        Visit(
                            way.kind, float(begins), float(begins + long_s / pace), shifted[0], shifted[1], way.counts
                        )
                    )
        return sorted(visits, key=lambda one: one.begins_s)

    def _drawn_disturbances(self, chance: np.random.Generator) -> list[Disturbance]:
        """Insects and headlights by night, lamps at any time."""
        weather, found = self.view.weather, []
        for hour in range(24):
            dark = 1 - daylight(hour + 0.5)
            for begins in chance.uniform(hour * 3600, (hour + 1) * 3600, chance.poisson(weather.insects_per_h * dark)):
                x, y, size = chance.uniform(0, WIDE), chance.uniform(0, HIGH), chance.uniform(5, 16)
                box = (x, y, x + size, y + size)
                found.append(Disturbance("insect", float(begins), float(begins + chance.uniform(0.4, 1.4)), box))
            for begins in chance.uniform(
                hour * 3600, (hour + 1) * 3600, chance.poisson(weather.headlights_per_h * dark)
            ):
                top = float(self.lens.horizon_px + 4)
                found.append(
                    Disturbance(
                        "headlight", float(begins), float(begins + chance.uniform(2, 5)), (0, top, WIDE, top + 34)
                    )
                )
            for begins in chance.uniform(hour * 3600, (hour + 1) * 3600, chance.poisson(weather.lamp_switches_per_h)):
                left = float(chance.uniform(0, WIDE * 0.6))
                box = (left, 6.0, left + 60, HIGH - 6.0)
                found.append(Disturbance("light", float(begins), float(begins + chance.uniform(40, 400)), box))
        return sorted(found, key=lambda one: one.begins_s)

    # ---- pictures ------------------------------------------------------------------------------------------------

    def _ground(self) -> Picture:
        """The empty place by day: sky or wall above the horizon, ground with texture that grows finer with distance."""
        rows = np.arange(HIGH, dtype=np.float32)[:, None]
        ground = 95 + 30 * np.clip((rows - self.lens.horizon_px) / HIGH, 0, 1)
        picture = np.where(rows < self.lens.horizon_px, 168.0, ground).astype(np.float32)
        picture = picture + self._look.normal(0, 7, (HIGH, WIDE)).astype(np.float32)
        left, right = int(WIDE * 0.08), int(WIDE * 0.34)
        top, bottom = int(self.lens.horizon_px - 12), int(self.lens.horizon_px + 5)
        picture[max(0, top) : bottom, left:right] = 128 + self._look.normal(0, 5, (bottom - max(0, top), right - left))
        return picture

    def _clumps(self) -> Picture:
        """Leaves in clumps of some pixels: light and dark, as a crown looks from afar."""
        plain = self._look.normal(0, 1, (HIGH, WIDE * 2))
        clumps = ndimage.gaussian_filter(plain, 1.7)
        texture: Picture = (24 * clumps / clumps.std()).astype(np.float32)
        return texture

    def active(self, at_s: float) -> list[tuple[Visit, Box]]:
        """Who is seen at a moment, and where; those outside the picture are not."""
        found = []
        for visit in self._near(self.visits, at_s, 120.0):
            share = (at_s - visit.begins_s) / (visit.ends_s - visit.begins_s)
            across = visit.start[0] + share * (visit.end[0] - visit.start[0])
            away = visit.start[1] + share * (visit.end[1] - visit.start[1])
            box = self.lens.box(visit.kind, across, away)
            if box.right > 1 and box.left < WIDE - 1:
                found.append((visit, box))
        return found

    @staticmethod
    def _near(items: list, at_s: float, longest_s: float) -> Iterator:  # type: ignore[type-arg]
        """Items that go on at a moment; they stand in the order of their beginnings."""
        low, high = 0, len(items)
        while low < high:
            middle = (low + high) // 2
            if items[middle].begins_s < at_s - longest_s:
                low = middle + 1
            else:
                high = middle
        while low < len(items) and items[low].begins_s <= at_s:
            if at_s < items[low].ends_s:
                yield items[low]
            low += 1

    def causes(self, at_s: float) -> list[Disturbance]:
        """What disturbs at a moment, besides wind, rain and shake, which always do where there are any."""
        return list(self._near(self.disturbances, at_s, 400.0))

    def picture(self, at_s: float) -> Picture:
        """The picture of a moment of the day."""
        hour = at_s / 3600 % 24
        light = 1.0 if self.view.indoors else daylight(hour)
        weather = self.view.weather
        cloud = 1 - weather.cloud * 0.35 * max(0.0, self._of(self._clouds, at_s)) * light
        level = (0.32 + 0.68 * light) * cloud
        burst = max(0.0, math.sin(0.31 * at_s) * math.sin(0.047 * at_s + self._shift))
        gust = max(0.0, weather.wind_m_per_s * (0.7 + 0.5 * self._of(self._gusts, at_s) + 0.9 * burst))
        frame = self._day * np.float32(level)
        self._sway(frame, at_s, gust, level)
        for disturbance in self.causes(at_s):
            self._disturb(frame, disturbance, at_s)
        for visit, box in self.active(at_s):
            self._draw(frame, visit, box, light)
        if weather.rain:
            self._rain(frame, at_s)
        if weather.shake_px:
            frame = _shifted(frame, weather.shake_px * gust / 8 * math.sin(7.3 * at_s) * math.sin(1.7 * at_s + 1))
        noise = weather.noise_day * light + weather.noise_night * (1 - light)
        sample = self._noise[int(at_s * 25 + self._shift) % len(self._noise)]
        grain = np.float32(noise) * np.roll(sample, int(at_s * 911) % WIDE, axis=1)
        seen: Picture = np.clip(frame + grain, 0, 255, dtype=np.float32)
        return seen

    @staticmethod
    def _of(series: NDArray[np.float32], at_s: float) -> float:
        at = at_s / 20 % len(series)
        low = int(at)
        return float(series[low] * (1 - (at - low)) + series[(low + 1) % len(series)] * (at - low))

    def _sway(self, frame: Picture, at_s: float, gust: float, level: float) -> None:
        """Leaves move by wind: the texture slides to and fro by up to some pixels."""
        for texture, (left, top, right, bottom) in zip(self._leaves, self.view.foliage, strict=True):
            x0, y0, x1, y1 = round(left * WIDE), round(top * HIGH), round(right * WIDE), round(bottom * HIGH)
            reach = min(6.0, 0.045 * gust**1.7)
            slide = WIDE / 2 + reach * (math.sin(2.1 * at_s + x0) + 0.5 * math.sin(5.3 * at_s))
            whole, part = int(slide), np.float32(slide - int(slide))
            patch = (1 - part) * texture[y0:y1, whole : whole + x1 - x0] + part * texture[
                y0:y1, whole + 1 : whole + 1 + x1 - x0
            ]
            crown = _crown(y1 - y0, x1 - x0)
            # Leaves are bright in infrared: by night they stand out more than the ground.
            lit = np.float32(max(level, 0.62))
            part_of = frame[y0:y1, x0:x1]
            part_of[crown] = (lit * (74 + patch))[crown]

    def _disturb(self, frame: Picture, one: Disturbance, at_s: float) -> None:
        share = (at_s - one.begins_s) / (one.ends_s - one.begins_s)
        left, top, right, bottom = one.box
        if one.cause == "insect":
            x, y = left + 34 * share, top + 14 * math.sin(9 * share)
            _ellipse(frame, Box(x, y, x + right - left, y + bottom - top), 215.0)
        elif one.cause == "headlight":
            x = -40 + share * (WIDE + 80)
            _ellipse(frame, Box(x, top, x + 46, bottom), 70.0, add=True)
        else:
            x0, y0, x1, y1 = (round(value) for value in one.box)
            frame[y0:y1, x0:x1] *= 1.35

    def _draw(self, frame: Picture, visit: Visit, box: Box, light: float) -> None:
        """A dark body by day, a bright one in infrared that fades with distance."""
        away = self.lens.away_m(box.bottom)
        lit = 40 + 150 * math.exp(-((away / INFRARED_REACH_M) ** 2))
        shade = 52.0 if light > 0.5 or self.view.indoors else lit
        if visit.kind in ("vehicle", "tram"):
            x0, x1 = max(0, round(box.left)), min(WIDE, round(box.right))
            y0, y1 = max(0, round(box.top)), min(HIGH, round(box.bottom))
            if x0 < x1 and y0 < y1:
                frame[y0:y1, x0:x1] = shade + 14
        else:
            _ellipse(frame, box, shade)

    def _rain(self, frame: Picture, at_s: float) -> None:
        drops = np.random.default_rng(int(at_s * 1000) + int(self._shift))
        xs, ys = drops.integers(0, WIDE, self.view.weather.rain), drops.integers(0, HIGH - 6, self.view.weather.rain)
        for step in range(5):
            frame[ys + step, xs] += 16


@cache
def _crown(high: int, wide: int) -> NDArray[np.bool_]:
    """The outline of a crown in its box."""
    ys, xs = np.mgrid[-1 : 1 : high * 1j, -1 : 1 : wide * 1j]
    inside: NDArray[np.bool_] = xs**2 + ys**2 <= 1
    return inside


def _ellipse(frame: Picture, box: Box, value: float, add: bool = False) -> None:
    x0, x1 = max(0, int(box.left)), min(WIDE, int(box.right) + 1)
    y0, y1 = max(0, int(box.top)), min(HIGH, int(box.bottom) + 1)
    if x0 >= x1 or y0 >= y1:
        return
    half_x, half_y = max(0.6, (box.right - box.left) / 2), max(0.6, (box.bottom - box.top) / 2)
    xs = (np.arange(x0, x1, dtype=np.float32) - (box.left + half_x) + 0.5) / half_x
    ys = (np.arange(y0, y1, dtype=np.float32) - (box.top + half_y) + 0.5) / half_y
    inside = xs[None, :] ** 2 + ys[:, None] ** 2 <= 1
    part = frame[y0:y1, x0:x1]
    part[inside] = part[inside] + value if add else value


def _shifted(frame: Picture, across_px: float) -> Picture:
    whole = math.floor(across_px)
    part = np.float32(across_px - whole)
    shifted: Picture = (1 - part) * np.roll(frame, whole, axis=1) + part * np.roll(frame, whole + 1, axis=1)
    return shifted


def _slow_noise(chance: np.random.Generator, length: int) -> NDArray[np.float32]:
    """A wandering series of mean 0 and about unit spread, one value for 20 s."""
    steps = chance.normal(0, 1, length)
    series = np.empty(length, dtype=np.float32)
    value = 0.0
    for at, step in enumerate(steps):
        value = 0.92 * value + 0.39 * step
        series[at] = value
    return series
