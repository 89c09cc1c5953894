"""What stands, moves and falls in a drawn scene, as levels on a small picture. Each function changes the picture given."""

from __future__ import annotations

import math
from functools import cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from eager_lens.core.motion.lens import GroundBox, Lens, Picture
from eager_lens.core.motion.looks import usual
from eager_lens.core.motion.small import HIGH, WIDE
from eager_lens.core.motion.source import Visit
from eager_lens.core.motion.view import Place, View
from eager_lens.core.values.kinds import Kind

INFRARED_REACH_M = 25.0

GAUGE_M = 1.4


def pixels_of(place: Place) -> tuple[int, int, int, int]:
    """A place of the picture in whole pixels: left, top, right, bottom."""
    left, top, right, bottom = place
    return round(left * WIDE), round(top * HIGH), round(right * WIDE), round(bottom * HIGH)


# ---- what stands there -------------------------------------------------------------------------------------------------


def empty_place(view: View, lens: Lens, chance: np.random.Generator) -> Picture:
    """The place by day with nobody there: sky or wall, ground with texture, tracks, houses, trunks and poles."""
    rows = np.arange(HIGH, dtype=np.float32)[:, None]
    above = np.full((HIGH, WIDE), 124.0) if view.indoors else 188 - 0.9 * (lens.horizon_px - rows) * np.ones((1, WIDE))
    depth = np.clip((rows - lens.horizon_px) / (HIGH - lens.horizon_px), 0, 1)
    picture: Picture = np.where(rows < lens.horizon_px, above, 96 + 30 * depth).astype(np.float32)
    if not view.indoors:
        ridge = lens.horizon_px - 3 - 3 * np.sin(np.arange(WIDE) / 17.0) - 2 * np.sin(np.arange(WIDE) / 7.0)
        picture[(rows > ridge[None, :]) & (rows < lens.horizon_px)] = 132
    texture = ndimage.gaussian_filter(chance.normal(0, 1, (HIGH, WIDE)), (0.6, 0.9))
    picture += (6 * texture / texture.std()).astype(np.float32) * np.where(rows < lens.horizon_px, 0.4, 1)
    for away in view.rails_m:
        near, far = (round(lens.foot(0, away + side)[1]) for side in (-GAUGE_M / 2, GAUGE_M / 2))
        picture[far - 1 : near + 2] -= 14
        picture[[far, near]] += 44
    for place in view.houses:
        _house(picture, place)
    for place in view.foliage:
        x0, _, x1, y1 = pixels_of(place)
        middle = (x0 + x1) // 2
        picture[y1 - 4 : min(HIGH, y1 + 9), middle - 1 : middle + 2] = 58
    for place in view.flags:
        x0, y0, _, y1 = pixels_of(place)
        picture[y0 : min(HIGH, y1 + 34), x0 : x0 + 1] = 70
    return picture


def _house(picture: Picture, place: Place) -> None:
    x0, y0, x1, y1 = pixels_of(place)
    roof = (y1 - y0) // 3
    picture[y0 + roof : y1, x0:x1] = 116
    for row in range(roof):
        inset = round((roof - row) * 0.9)
        picture[y0 + row, x0 + inset - 2 : x1 - inset + 2] = 84
    wide = (x1 - x0) // 5
    for left in (x0 + wide, x1 - 2 * wide):
        picture[y0 + roof + 3 : y0 + roof + 3 + max(3, (y1 - y0) // 4), left : left + wide] = 158


def clumps(chance: np.random.Generator) -> Picture:
    """Leaves in clumps of some pixels: light and dark, as a crown looks from afar."""
    plain = ndimage.gaussian_filter(chance.normal(0, 1, (HIGH, WIDE * 2)), 1.7)
    texture: Picture = (24 * plain / plain.std()).astype(np.float32)
    return texture


@cache
def _crown(high: int, wide: int) -> NDArray[np.bool_]:
    """The outline of a crown in its box: three lobes and a foot."""
    ys, xs = np.mgrid[-1 : 1 : high * 1j, -1 : 1 : wide * 1j]
    inside = np.zeros((high, wide), dtype=np.bool_)
    for x, y, across, down in (
        (0, -0.35, 0.62, 0.65),
        (-0.5, 0.15, 0.5, 0.6),
        (0.5, 0.2, 0.5, 0.6),
        (0, 0.45, 0.6, 0.5),
    ):
        inside |= ((xs - x) / across) ** 2 + ((ys - y) / down) ** 2 <= 1
    return inside


# ---- what the wind moves -----------------------------------------------------------------------------------------------


def sway(frame: Picture, place: Place, texture: Picture, at_s: float, gust: float, level: float) -> None:
    """Leaves move by wind: the texture slides to and fro by up to some pixels."""
    x0, y0, x1, y1 = pixels_of(place)
    reach = min(6.0, 0.045 * gust**1.7)
    slide = WIDE / 2 + reach * (math.sin(2.1 * at_s + x0) + 0.5 * math.sin(5.3 * at_s))
    whole, part = int(slide), np.float32(slide - int(slide))
    wide = x1 - x0
    patch = (1 - part) * texture[y0:y1, whole : whole + wide] + part * texture[y0:y1, whole + 1 : whole + 1 + wide]
    crown = _crown(y1 - y0, wide)
    # Leaves are bright in infrared: by night they stand out more than the ground.
    lit = np.float32(max(level, 0.62))
    part_of = frame[y0:y1, x0:x1]
    part_of[crown] = (lit * (74 + patch))[crown]


def flutter(frame: Picture, place: Place, at_s: float, gust: float, level: float) -> None:
    """A flag: waves run through its cloth, the faster the more wind; calm, it hangs."""
    x0, y0, x1, y1 = pixels_of(place)
    xs = np.arange(x1 - x0, dtype=np.float32)
    swing = min(1.0, gust / 7)
    shade = 128 + 58 * swing * np.sin(0.75 * xs - (2 + gust) * at_s)
    frame[y0:y1, x0:x1] = np.float32(level) * shade[None, :]


# ---- what comes along --------------------------------------------------------------------------------------------------


class Shades(NamedTuple):
    """Grey levels of somebody on a picture: head, upper and lower half; of a vehicle the upper is its body."""

    head: float
    upper: float
    lower: float


def figure_on(frame: Picture, kind: Kind, box: GroundBox, shades: Shades, at_s: float) -> None:
    """Somebody or something, in its box."""
    wide, high = box.right - box.left, box.bottom - box.top
    if kind in ("person", "cyclist"):
        middle, top = (box.left + box.right) / 2, box.top
        if kind == "cyclist":
            fill(frame, box.left, box.bottom - 0.34 * high, box.right, box.bottom, shades.lower - 10)
            half = 0.17 * wide
        else:
            half = 0.5 * wide
        ellipse(frame, GroundBox(middle - 0.5 * half, top, middle + 0.5 * half, top + 0.22 * high), shades.head)
        fill(frame, middle - half, top + 0.18 * high, middle + half, top + 0.58 * high, shades.upper)
        stride = 0.5 * half * math.sin(9 * at_s)
        for side in (-1, 1):
            foot = middle + side * (0.45 * half + stride)
            fill(frame, foot - 0.5 * half, top + 0.55 * high, foot + 0.5 * half, box.bottom, shades.lower)
    elif kind == "animal":
        ellipse(frame, box, shades.upper)
    else:
        cab = 0.0 if kind == "tram" else 0.42 * high
        fill(frame, box.left, box.top + cab, box.right, box.bottom, shades.upper + 14)
        if kind == "vehicle":
            fill(frame, box.left + 0.2 * wide, box.top, box.right - 0.25 * wide, box.top + cab + 1, shades.upper + 2)
        else:
            fill(frame, box.left + 2, box.top + 0.2 * high, box.right - 2, box.top + 0.48 * high, shades.upper + 60)


HEAD = 60.0
"""Hair and shade by day (assumed)."""


def shades_of(visit: Visit, away_m: float, is_light: bool) -> Shades:
    """Clothing as it is by day; in infrared bright, the less so the farther off."""
    looks = visit.looks or usual(visit.kind)
    if is_light:
        return Shades(HEAD, looks.upper, looks.lower)
    lit = 40 + 150 * looks.infrared * math.exp(-((away_m / INFRARED_REACH_M) ** 2))
    return Shades(lit + 6, lit, lit)


def fill(frame: Picture, left: float, top: float, right: float, bottom: float, value: float) -> None:
    """A box of one level; at least one pixel wide and high, cut at the picture's edges."""
    x0, y0 = max(0, round(left)), max(0, round(top))
    frame[y0 : max(y0 + 1, min(HIGH, round(bottom))), x0 : max(x0 + 1, min(WIDE, round(right)))] = value


def ellipse(frame: Picture, box: GroundBox, value: float, add: bool = False) -> None:
    """An ellipse of one level, or so much brighter than what is there."""
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


# ---- what falls --------------------------------------------------------------------------------------------------------

STREAKS_PER_MM = 8
"""Streaks of rain in a picture, for 1 mm/h (assumed)."""

FLAKES_PER_MM = 26
"""Flakes near enough to be seen one by one, for 1 mm of water an hour (assumed)."""


def rain(frame: Picture, mm_per_h: float, light: float, chance: np.random.Generator) -> None:
    """Streaks that are elsewhere on every picture; the camera's own infrared lights them up."""
    many = round(STREAKS_PER_MM * mm_per_h)
    xs, ys = chance.integers(0, WIDE, many), chance.integers(0, HIGH - 6, many)
    for step in range(5):
        frame[ys + step, xs] += 22 - 10 * light


def snow(frame: Picture, mm_per_h: float, wind_m_per_s: float, light: float, at_s: float) -> None:
    """Flakes that sink and drift; those near the lens are large, fast and by night bright."""
    many = round(FLAKES_PER_MM * mm_per_h)
    starts, falls = _flakes(max(1, many))
    ys = ((starts[1] + falls * 14 * at_s) % (HIGH - 2)).astype(np.intp)
    xs = ((starts[0] + falls * 6 * wind_m_per_s * at_s) % (WIDE - 2)).astype(np.intp)
    bright = np.float32(70 - 45 * light)
    for down, across in ((0, 0), (1, 0), (0, 1), (1, 1)):
        frame[ys + down, xs + across] += bright


@cache
def _flakes(many: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    chance = np.random.default_rng(4)
    return chance.uniform(0, 1, (2, many)) * [[WIDE], [HIGH]], chance.uniform(0.6, 1.6, many)


def shifted(frame: Picture, across_px: float) -> Picture:
    """The picture moved across, by parts of a pixel too."""
    whole = math.floor(across_px)
    part = np.float32(across_px - whole)
    # Twice side by side: any stretch of it is the picture rolled.
    twice, at = np.concatenate((frame, frame), axis=1), -whole % WIDE or WIDE
    moved: Picture = (1 - part) * twice[:, at : at + WIDE] + part * twice[:, at - 1 : at - 1 + WIDE]
    return moved


def slow_noise(chance: np.random.Generator, length: int) -> NDArray[np.float32]:
    """A wandering series of mean 0 and about unit spread, one value for 20 s."""
    steps = chance.normal(0, 1, length)
    series = np.empty(length, dtype=np.float32)
    value = 0.0
    for at, step in enumerate(steps):
        value = 0.92 * value + 0.39 * step
        series[at] = value
    return series
