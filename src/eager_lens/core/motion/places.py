"""Ten scenes to try a rule in: those of the demo's yard, halt, kiosk and halls among them. All invented."""

from __future__ import annotations

from functools import cache

from eager_lens.core.motion.view import Passage, View
from eager_lens.core.values.weather import Weather

RUNNING_DAYS = (3, 4, 5, 6)
"""Trams run from Thursday to Sunday."""

WORKING_DAYS = (0, 1, 2, 3, 4)

WALK = Passage("person", (-9, 9), (9, 14), 6, 0.6, back_s=12)
BACK = Passage("person", (7, 18), (-7, 12), 4, 0.4)
FAR = Passage("person", (-15, 30), (15, 27), 1.5, 1.2)
"""Far off, where infrared hardly reaches: low sensitivity misses them by night."""

FOX = Passage("animal", (-8, 11), (8, 9), 0.2, 2.0, False)
CAR = Passage("vehicle", (-16, 16), (16, 16), 3, 0.5)
TRAM = Passage("tram", (-20, 20), (20, 20), 1, 0, hours=((9, 18, 3),), days=RUNNING_DAYS)
SHIFT = Passage("person", (-8, 12), (8, 12), 0, 0, hours=((7, 8, 12), (16, 17, 12)), days=WORKING_DAYS)

YARD = View(
    "yard",
    "Depot yard with a tree, windy, infrared at night",
    4.5,
    70,
    0.30,
    (WALK, BACK, FAR, FOX, TRAM, SHIFT),
    foliage=((0.70, 0.10, 0.96, 0.58),),
    houses=((0.08, 0.14, 0.36, 0.40),),
    rails_m=(20.0,),
    weather=Weather(wind_m_per_s=7, insects_per_h=14, headlights_per_h=2, shake_deg=0.11, noise_night=5),
)


_VIEWS = (
    YARD,
    YARD._replace(
        name="yard-calm",
        words="The same yard, warm and calm: insects near the infrared",
        weather=Weather(wind_m_per_s=1.5, insects_per_h=40, headlights_per_h=4),
    ),
    YARD._replace(
        name="yard-rain",
        words="The same yard in rain",
        weather=Weather(wind_m_per_s=5, rain_mm_per_h=5, cloud=0.9, noise_night=6),
    ),
    View(
        "halt",
        "Quarry Halt: platform at the moor's edge, gusts and snow",
        4,
        80,
        0.35,
        (Passage("person", (-6, 7), (6, 8), 3, 0.1, back_s=15), TRAM, FOX),
        foliage=((0.02, 0.2, 0.22, 0.6), (0.8, 0.25, 0.98, 0.62)),
        rails_m=(12.0,),
        weather=Weather(wind_m_per_s=9, snow_mm_per_h=1, cloud=0.5, shake_deg=0.25, noise_night=5),
    ),
    View(
        "gate",
        "Yard gate on the road, headlights at night",
        4,
        75,
        0.33,
        (Passage("person", (-6, 8), (6, 10), 4, 0.5), CAR),
        foliage=((0.0, 0.15, 0.18, 0.5),),
        weather=Weather(wind_m_per_s=4, headlights_per_h=20, noise_night=5),
    ),
    View(
        "car-park",
        "Volunteers' car park, clouds and hedges",
        5,
        85,
        0.28,
        (CAR, WALK, Passage("cyclist", (-12, 13), (12, 17), 2, 0.2)),
        foliage=((0.0, 0.3, 0.3, 0.5), (0.7, 0.3, 1.0, 0.48)),
        houses=((0.36, 0.10, 0.6, 0.34),),
        weather=Weather(wind_m_per_s=6, cloud=0.6),
    ),
    View(
        "fence",
        "Substation fence, animals and insects",
        3.5,
        60,
        0.30,
        (Passage("person", (-5, 8), (5, 12), 0.5, 0.3), FOX),
        foliage=((0.3, 0.2, 0.5, 0.45),),
        houses=((0.6, 0.12, 0.9, 0.36),),
        weather=Weather(wind_m_per_s=5, insects_per_h=30, noise_night=6),
    ),
    View(
        "hall",
        "Car hall, lamps switched, trams in and out",
        5,
        80,
        0.25,
        (WALK, TRAM, SHIFT),
        rails_m=(20.0,),
        lamps=((0.04, 0.18, 0.28, 0.45), (0.7, 0.18, 0.95, 0.45)),
        weather=Weather(wind_m_per_s=0, lamp_switches_per_h=3, noise_day=2.5, noise_night=2.5),
        indoors=True,
    ),
    View(
        "store",
        "Timber store: lamps on a sensor, and a cat",
        3.5,
        75,
        0.25,
        (Passage("person", (-4, 6), (4, 9), 2, 0.05, back_s=20), Passage("animal", (-4, 6), (5, 7), 1, 3, False)),
        lamps=((0.1, 0.2, 0.4, 0.42), (0.6, 0.2, 0.85, 0.42)),
        weather=Weather(wind_m_per_s=0, lamp_switches_per_h=2, noise_day=3, noise_night=6),
        indoors=True,
    ),
    View(
        "kiosk",
        "Kiosk queue under a flag",
        3.2,
        80,
        0.28,
        (
            Passage("person", (-4, 5), (4, 6), 3, 0.3, hours=((10, 17, 30),), days=RUNNING_DAYS),
            Passage("person", (5, 8), (-5, 7), 3, 0.3, hours=((10, 17, 20),), days=RUNNING_DAYS, back_s=10),
        ),
        flags=((0.58, 0.16, 0.74, 0.42),),
        houses=((0.05, 0.10, 0.3, 0.42),),
        weather=Weather(wind_m_per_s=5, cloud=0.3),
    ),
)


@cache
def presets() -> dict[str, View]:
    """The scenes by name."""
    return {view.name: view for view in _VIEWS}
