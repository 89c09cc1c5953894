"""The rule of the selected cameras and what it is tried in: read from the job, and changed in one step each."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from eager_lens.core.job.edits import Edit, set_fields
from eager_lens.core.job.model import Camera, changed
from eager_lens.core.job.saved_rules import give_rule, remove_rule, save_rule
from eager_lens.core.motion.places import presets
from eager_lens.core.tried_rule.tried import CLIP, TriedRule, tried_rule_of
from eager_lens.core.units import count, figure
from eager_lens.core.values.marks import TriedClip
from eager_lens.core.values.motion_rule import CrossingLine, MotionRule, Zone
from eager_lens.core.values.weather import Weather
from eager_lens.desk.session import Session

FULL = ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0))


class RuleEditor:
    """What stands in focus is the first selected camera; edits go to all that are selected."""

    def __init__(self, session: Session) -> None:
        self.session = session

    # ---- what is there ---------------------------------------------------------------------------------------------

    def camera(self) -> Camera | None:
        """The first selected camera; else the first of the job."""
        cameras = self.session.job.cameras
        selected = set(self.session.selected)
        return next((one for one in cameras if one.id in selected), cameras[0] if cameras else None)

    def rule(self) -> MotionRule:
        """The rule of the camera in focus, or the default."""
        camera = self.camera()
        return camera.motion_rule if camera is not None and camera.motion_rule is not None else MotionRule()

    def trial(self) -> TriedRule:
        """What the camera in focus is tried in."""
        return tried_rule_of(self.camera())

    def ids(self) -> list[str]:
        """The cameras that are changed."""
        known = {one.id for one in self.session.job.cameras}
        camera = self.camera()
        return [one for one in self.session.selected if one in known] or ([camera.id] if camera is not None else [])

    # ---- steps -----------------------------------------------------------------------------------------------------

    def _step(self, words: str, fields: Callable[[], dict[str, Any]]) -> None:
        """Change fields of the selected cameras, as one step; what is refused is told, and nothing changes."""
        ids = self.ids()

        def edit() -> Edit:
            return set_fields(ids, f"{words} on {count(len(ids), 'camera')}", **fields())

        if ids:
            self.session.attempt(edit)

    def set(self, words: str, **fields: Any) -> None:
        """Change fields of the selected cameras."""
        self._step(words, lambda: fields)

    def take(self, rule: MotionRule, words: str) -> None:
        """Give the selected cameras a rule, and note in what it was tried."""
        trial = self.trial()
        self.set(words, motion_rule=rule, tried_in=CLIP if trial.clip is not None else trial.view.name)

    def _change(self, words: str, fields: Callable[[MotionRule], dict[str, Any]]) -> None:
        self._step(words, lambda: {"motion_rule": changed(self.rule(), **fields(self.rule()))})

    def add_zone(self, corners: Any, leave_out: bool) -> None:
        """Add an exclusion zone, or look only there."""
        words = "Add an exclusion zone" if leave_out else "Add a zone"
        made = Zone(corners=FULL, leave_out=leave_out)
        self._change(words, lambda rule: {"zones": (*rule.zones, changed(made, corners=corners))})

    def move_zone(self, at: int, corners: Any) -> None:
        """Give a zone other corners."""

        def moved(rule: MotionRule) -> dict[str, Any]:
            zones = (changed(zone, corners=corners) if here == at else zone for here, zone in enumerate(rule.zones))
            return {"zones": tuple(zones)}

        self._change("Move a zone", moved)

    def remove_zone(self, at: int) -> None:
        """Remove a zone."""
        self._change(
            "Remove a zone",
            lambda rule: {"zones": tuple(zone for here, zone in enumerate(rule.zones) if here != at)},
        )

    def draw_line(self, begins: Any, ends: Any) -> None:
        """Draw the line that line to cross, or move it."""

        def drawn(rule: MotionRule) -> dict[str, Any]:
            line = rule.line or CrossingLine(begins=FULL[0], ends=FULL[2])
            return {"line": changed(line, begins=begins, ends=ends)}

        self._change("Add a line crossing", drawn)

    def remove_line(self) -> None:
        """Remove the line."""
        self._change("Remove the line", lambda rule: {"line": None})

    # ---- what it is tried in -----------------------------------------------------------------------------------------

    def try_in(self, name: str) -> None:
        """Try in a drawn scene, with its own weather."""
        self.set(f"Try in “{presets()[name].words}”", tried_in=name, tried_weather=None)

    def try_on(self, path: Path) -> None:
        """Try on a clip; of the camera in focus alone, since a clip shows one."""
        camera = self.camera()
        if camera is not None:
            known = camera.tried_clip
            clip = known if known is not None and known.path == str(path) else TriedClip(path=str(path))
            self.session.apply(set_fields([camera.id], f"Try on {path.name}", tried_in=CLIP, tried_clip=clip))

    def turn_weather(self, weather: Weather | None) -> None:
        """Turn the weather of the scene; None: its own."""
        self.set("Turn the weather", tried_weather=weather, tried_in=self.trial().view.name)

    def take_events(self, per_h: float, event_s: float) -> None:
        """What triggered there, as the cameras' events: sizing then uses them as measured."""
        words = f"{figure(per_h)} events an hour of {figure(event_s, 2)} s, as tried"
        origin = f"tried in “{self.trial().words}”"[:200]
        self.set(words, events_per_h=per_h, event_s=event_s, events_from=origin)

    # ---- saved rules -------------------------------------------------------------------------------------------------

    def save(self, name: str) -> None:
        """Save the rule under a name."""
        self.session.attempt(lambda: save_rule(name, self.rule()))

    def give(self, rule_id: str) -> None:
        """Give a saved rule to the selected cameras."""
        self.session.attempt(lambda: give_rule(self.session.job, rule_id, self.ids()))

    def forget(self, rule_id: str) -> None:
        """Take a saved rule away."""
        self.session.apply(remove_rule(rule_id))
