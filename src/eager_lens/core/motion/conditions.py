"""Days of a drawn scene in several weathers: the scene's own weather is what is usual there, and no day is just as usual."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from eager_lens.core.motion.scene import DrawnScene
from eager_lens.core.motion.view import View
from eager_lens.core.values.weather import Weather

RAYLEIGH = math.sqrt(2 / math.pi)
"""The scale of a Rayleigh distribution of mean 1: wind speeds at a place are spread so, roughly."""

RAINY_SHARE, RAIN_MM_PER_H = 0.25, 2.0
"""So many days are wet where the scene's own is dry, with so much rain in the mean (assumed)."""


class Condition(NamedTuple):
    """A day: its seed, day of the week (Monday is 0), and weather."""

    seed: int
    weekday: int
    weather: Weather

    def scene(self, view: View) -> DrawnScene:
        """The day's pictures."""
        return DrawnScene(view._replace(weather=self.weather), self.seed, self.weekday)


def conditions(view: View, seed: int, many: int) -> tuple[Condition, ...]:
    """Days at random, with weather about the view's own: spread evenly over calm and stormy, clear and cloudy.

    Wind is spread as Rayleigh's distribution of the same mean; rain and snow as an exponential one; insects, headlights and
    the noise of the night by some factor (assumed).
    """
    chance = np.random.default_rng((seed, 2))

    def spread() -> list[float]:
        # One of each part of the distribution, so that some days tell of all.
        return [(at + chance.random()) / many for at in chance.permutation(many)]

    usual = view.weather
    columns = zip(spread(), spread(), spread(), spread(), spread(), chance.permutation(many), strict=True)
    days = []
    for wind, cloud, wet, swarms, grain, at in columns:
        rain = usual.rain_mm_per_h
        if not rain and not usual.snow_mm_per_h and not view.indoors and wet > 1 - RAINY_SHARE:
            rain, wet = RAIN_MM_PER_H, (wet - 1 + RAINY_SHARE) / RAINY_SHARE
        falls = -math.log(1 - 0.99 * wet)
        changes = {
            "wind_m_per_s": min(40.0, usual.wind_m_per_s * RAYLEIGH * math.sqrt(-2 * math.log(1 - wind))),
            "cloud": min(1.0, usual.cloud * (0.3 + 1.4 * cloud)),
            "rain_mm_per_h": min(100.0, rain * falls),
            "snow_mm_per_h": min(20.0, usual.snow_mm_per_h * falls),
            "insects_per_h": min(600.0, usual.insects_per_h * (0.4 + 1.2 * swarms)),
            "headlights_per_h": min(600.0, usual.headlights_per_h * (0.4 + 1.2 * swarms)),
            "noise_night": min(60.0, usual.noise_night * (0.8 + 0.5 * grain)),
        }
        days.append(Condition(seed * 100 + int(at), int(at) % 7, usual.model_copy(update=changes)))
    return tuple(days)
