"""What a handling costs at the bench and on site, in minutes with the walk (assumed, of the same kind as the fault table's)."""

from __future__ import annotations

USUAL_MIN = 2.0

COST_MIN: dict[str, float] = {
    "ping": 1,
    "page": 1,
    "refresh": 1,
    "rename": 1,
    "remove": 1,
    "laptop address": 1,
    "laptop lease": 1,
    "laptop bare": 1,
    "forget": 1,
    "stream": 3,
    "add": 3,
    "own make": 3,
    "address": 3,
    "open protocol": 3,
    "reserve": 3,
    "power on": 3,
    "power off": 3,
    "set up": 5,
    "walk": 5,
    "radio": 5,
    "laptop to": 5,
    "plug": 8,
    "unplug": 8,
    "box": 8,
    "unbox": 8,
    "update": 10,
    "soft reset": 10,
    "full reset": 12,
    "new plugs": 25,
    "new drive": 30,
    "larger switch": 40,
    "align": 40,
    "replace": 45,
}


def cost_min(action: str) -> float:
    """What an action costs."""
    return COST_MIN.get(action, USUAL_MIN)
