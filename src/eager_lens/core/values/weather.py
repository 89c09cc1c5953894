"""The weather of a drawn scene and what goes with it, in physical units: the knobs that somebody turns."""

from __future__ import annotations

from typing import Annotated, NamedTuple

from pydantic import Field

from eager_lens.core.validation import Number, Plain, Share


class Weather(Plain):
    """A day's weather.

    Attributes:
        wind_m_per_s: mean wind; gusts come on top.
        rain_mm_per_h, snow_mm_per_h: as water, over the whole day.
        cloud: how much of the sky clouds take, 0 to 1; their shadows wander over the ground.
        insects_per_h, headlights_per_h: by night. lamp_switches_per_h: at all times.
        shake_deg: how far the camera swings on its pole in a wind of 8 m/s.
        noise_day, noise_night: standard deviation of the picture's noise, in levels of 255.
    """

    wind_m_per_s: Annotated[Number, Field(le=40)] = 2.0
    rain_mm_per_h: Annotated[Number, Field(le=100)] = 0.0
    snow_mm_per_h: Annotated[Number, Field(le=20)] = 0.0
    cloud: Share = 0.2
    insects_per_h: Annotated[Number, Field(le=600)] = 0.0
    headlights_per_h: Annotated[Number, Field(le=600)] = 0.0
    lamp_switches_per_h: Annotated[Number, Field(le=60)] = 0.0
    shake_deg: Annotated[Number, Field(le=5)] = 0.0
    noise_day: Annotated[Number, Field(le=60)] = 1.5
    noise_night: Annotated[Number, Field(le=60)] = 4.0


class Knob(NamedTuple):
    """A knob: the field of the weather, words, unit, and by how many of the unit one is of the field."""

    field: str
    words: str
    unit: str
    scale: float = 1.0


KNOBS: tuple[Knob, ...] = (
    Knob("wind_m_per_s", "Wind", "m/s"),
    Knob("rain_mm_per_h", "Rain", "mm/h"),
    Knob("snow_mm_per_h", "Snow", "mm/h"),
    Knob("cloud", "Clouds", "%", 100),
    Knob("insects_per_h", "Insects", "/h"),
    Knob("headlights_per_h", "Headlights", "/h"),
    Knob("lamp_switches_per_h", "Lamps switched", "/h"),
    Knob("shake_deg", "Pole swings", "°"),
    Knob("noise_day", "Noise by day", "of 255"),
    Knob("noise_night", "Noise by night", "of 255"),
)
