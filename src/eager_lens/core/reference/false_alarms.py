"""How many false alarms a motion rule gives by the kind of view and of rule, from ``false_alarms.json``."""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path
from typing import Literal, NamedTuple, get_args

RuleClass = Literal["untuned", "tuned", "detection"]
RULE_CLASSES: tuple[RuleClass, ...] = get_args(RuleClass)
RULE_CLASS_WORDS: dict[RuleClass, str] = {
    "untuned": "pixel motion, default settings",
    "tuned": "pixel motion tuned to the view",
    "detection": "persons and vehicles only",
}


class FalseAlarms(NamedTuple):
    """False alarms an hour, how long one lasts in seconds, and by how many times starts may be more or less than planned."""

    per_h: float
    seconds: float
    times: float


@cache
def _table() -> tuple[str, dict[str, dict[RuleClass, FalseAlarms]]]:
    data = json.loads(Path(__file__).with_name("false_alarms.json").read_text("utf-8"))
    views = {
        scene_id: {
            rule: FalseAlarms(row[rule]["per_h"], row[rule]["seconds"], row.get("times", data["times"]))
            for rule in RULE_CLASSES
        }
        for scene_id, row in data["views"].items()
    }
    return data["source"], views


def false_alarms_source() -> str:
    """Where the figures come from."""
    return _table()[0]


@cache
def false_alarms(scene_id: str, rule: RuleClass) -> FalseAlarms:
    """Those of a kind of view; of one that is not known, those of the most demanding one."""
    views = _table()[1]
    return views.get(scene_id, views["yard-dark"])[rule]
