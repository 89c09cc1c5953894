"""Where a drawn camera stands, what comes along, and the weather: the knobs of a scene, in physical units."""

from __future__ import annotations

from typing import Literal, NamedTuple

Kind = Literal["person", "cyclist", "vehicle", "tram", "animal"]

Cause = Literal["foliage", "insect", "headlight", "rain", "light", "shake", "noise", "small animal"]

SIZES_M: dict[Kind, tuple[float, float]] = {
    "person": (0.6, 1.75),
    "cyclist": (1.7, 1.75),
    "vehicle": (4.2, 1.5),
    "tram": (9.0, 3.2),
    "animal": (0.45, 0.3),
}
"""Width and height in metres, seen from the side (assumed)."""

SPEEDS_M_PER_S: dict[Kind, float] = {"person": 1.3, "cyclist": 4.0, "vehicle": 5.0, "tram": 3.0, "animal": 1.8}


class Way(NamedTuple):
    """A way over the ground, from one point to another: metres across (left negative) and away, and who comes how often.

    ``per_h_by_day`` and ``per_h_by_night`` are arrivals an hour; ``counts``: whether they are to be caught.
    """

    kind: Kind
    start: tuple[float, float]
    end: tuple[float, float]
    per_h_by_day: float
    per_h_by_night: float
    counts: bool = True


class Weather(NamedTuple):
    """The weather and what goes with it.

    Attributes:
        wind_m_per_s: of the mean wind; gusts come on top.
        rain: streaks in a picture. cloud: how much clouds darken, 0 to 1.
        insects_per_h, headlights_per_h: by night. lamp_switches_per_h: at all times.
        shake_px: of the camera on its pole, in pixels of 160 across, at this wind.
        noise_day, noise_night: standard deviation of the picture's noise, in levels of 255.
    """

    wind_m_per_s: float = 2.0
    rain: int = 0
    cloud: float = 0.2
    insects_per_h: float = 0.0
    headlights_per_h: float = 0.0
    lamp_switches_per_h: float = 0.0
    shake_px: float = 0.0
    noise_day: float = 1.5
    noise_night: float = 4.0


class View(NamedTuple):
    """A scene: the camera's height and field, the horizon (share of the height), what stands there and what comes.

    ``foliage`` and ``flags`` are boxes (left, top, right, bottom) in shares of the picture; ``indoors``: no daylight.
    """

    name: str
    words: str
    height_m: float
    view_deg: float
    horizon: float
    ways: tuple[Way, ...]
    foliage: tuple[tuple[float, float, float, float], ...] = ()
    weather: Weather = Weather()
    indoors: bool = False


def presets() -> dict[str, View]:
    """Ten scenes by name; those of the demo's yard, halt, kiosk and halls among them."""
    walk = Way("person", (-9, 9), (9, 14), 6, 0.6)
    back = Way("person", (7, 18), (-7, 12), 4, 0.4)
    fox = Way("animal", (-8, 11), (8, 9), 0.2, 2.0, False)
    car = Way("vehicle", (-16, 16), (16, 16), 3, 0.5)
    tram = Way("tram", (-20, 20), (20, 20), 2, 0)
    yard = View(
        "yard",
        "Depot yard with a tree, windy, infrared at night",
        4.5,
        70,
        0.30,
        (walk, back, fox, tram),
        ((0.70, 0.10, 0.96, 0.58),),
        Weather(wind_m_per_s=7, insects_per_h=14, headlights_per_h=2, shake_px=0.25, noise_night=5),
    )
    return {
        view.name: view
        for view in (
            yard,
            yard._replace(name="yard-calm", words="The same yard, calm", weather=Weather(wind_m_per_s=1.5)),
            yard._replace(
                name="yard-rain",
                words="The same yard in rain",
                weather=Weather(wind_m_per_s=5, rain=40, cloud=0.5, noise_night=6),
            ),
            View(
                "halt",
                "Quarry Halt: platform at the moor's edge, gusts, mist",
                4,
                80,
                0.35,
                (Way("person", (-6, 7), (6, 8), 3, 0.1), tram, fox),
                ((0.02, 0.2, 0.22, 0.6), (0.8, 0.25, 0.98, 0.62)),
                Weather(wind_m_per_s=9, cloud=0.5, shake_px=0.5, noise_night=5),
            ),
            View(
                "gate",
                "Yard gate on the road, headlights at night",
                4,
                75,
                0.33,
                (Way("person", (-6, 8), (6, 10), 4, 0.5), car),
                ((0.0, 0.15, 0.18, 0.5),),
                Weather(wind_m_per_s=4, headlights_per_h=20, noise_night=5),
            ),
            View(
                "car-park",
                "Volunteers' car park, clouds and hedges",
                5,
                85,
                0.28,
                (car, walk, Way("cyclist", (-12, 13), (12, 17), 2, 0.2)),
                ((0.0, 0.3, 0.3, 0.5), (0.7, 0.3, 1.0, 0.48)),
                Weather(wind_m_per_s=6, cloud=0.6, noise_night=4),
            ),
            View(
                "fence",
                "Substation fence, animals and insects",
                3.5,
                60,
                0.30,
                (Way("person", (-5, 8), (5, 12), 0.5, 0.3), fox),
                ((0.3, 0.2, 0.5, 0.45),),
                Weather(wind_m_per_s=5, insects_per_h=30, noise_night=6),
            ),
            View(
                "hall",
                "Car hall, lamps switched, trams in and out",
                5,
                80,
                0.25,
                (walk, tram),
                (),
                Weather(wind_m_per_s=0, lamp_switches_per_h=3, noise_day=2.5, noise_night=2.5),
                True,
            ),
            View(
                "store",
                "Timber store, dark, hardly anybody",
                3.5,
                75,
                0.25,
                (Way("person", (-4, 6), (4, 9), 2, 0.05),),
                (),
                Weather(wind_m_per_s=0, lamp_switches_per_h=1, noise_day=3, noise_night=6),
                True,
            ),
            View(
                "kiosk",
                "Kiosk queue under a flag",
                3.2,
                80,
                0.28,
                (Way("person", (-4, 5), (4, 6), 25, 0.3), Way("person", (5, 8), (-5, 7), 20, 0.3)),
                ((0.55, 0.02, 0.75, 0.2),),
                Weather(wind_m_per_s=5, cloud=0.3, noise_night=4),
            ),
        )
    }
