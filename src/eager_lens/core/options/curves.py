"""Days kept if one setting of some cameras were another: the curve on the Sizing page."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures import NO_HOURS, Joint, camera_figures, erased
from eager_lens.core.job.model import Camera, changed
from eager_lens.core.sizing.disk import days_kept

Setting = Literal["fps", "key_frame_s", "width_px", "events_per_h", "post_recording_s"]


class SettingKind(NamedTuple):
    """A setting that can be varied: its words, unit, and the values tried."""

    id: Setting
    label: str
    unit: str
    values: tuple[float, ...]

    def of(self, camera: Camera) -> float:
        """A camera's present value."""
        return float(getattr(camera, self.id))

    def fields(self, camera: Camera, value: float) -> dict[str, Any]:
        """The fields of a camera with another value; a picture keeps its shape."""
        if self.id == "width_px":
            height_px = max(16, round(camera.height_px * value / camera.width_px / 2) * 2)
            return {"width_px": int(value), "height_px": height_px}
        return {self.id: value}


SETTINGS: dict[Setting, SettingKind] = {
    kind.id: kind
    for kind in (
        SettingKind("fps", "Frame rate", "fps", (2, 3, 4, 5, 6, 8, 10, 12, 15, 18, 20, 25, 30)),
        SettingKind("key_frame_s", "Key-frame interval", "s", (0.5, 1, 1.5, 2, 3, 4, 5, 6, 8, 10)),
        SettingKind("width_px", "Picture width", "px", (640, 960, 1280, 1600, 1920, 2304, 2560, 2688, 3072, 3840)),
        SettingKind("events_per_h", "Events an hour", "an hour", (0, 1, 2, 5, 10, 20, 40, 60, 90, 120, 180)),
        SettingKind("post_recording_s", "Post-recording", "s", (0, 5, 10, 15, 20, 30, 45, 60, 90, 120)),
    )
}


@dataclass(frozen=True)
class DaysCurve:
    """Days kept against a setting. ``now`` is the setting's present value if all the cameras share one."""

    setting: SettingKind
    values: tuple[float, ...]
    days: tuple[float, ...]
    days_low: tuple[float, ...]
    days_high: tuple[float, ...]
    cameras: int
    now: float | None


def days_curve(
    assessment: Assessment, recorder_id: str, camera_ids: Iterable[str], setting: Setting
) -> DaysCurve | None:
    """Days that a recorder keeps while the setting of some of its cameras is varied.

    A measured rate holds only for the settings it was measured at, so the cameras that are varied are taken at their
    assumed rates. None when the recorder has no space, or nothing would be written at any value.
    """
    facts = assessment.facts
    kind = SETTINGS[setting]
    wanted = set(camera_ids)
    on_it = facts.cameras_on.get(recorder_id, [])
    varied = [camera for camera in on_it if camera.id in wanted] or on_it
    got = facts.recorder_figures.get(recorder_id)
    if got is None or got.trouble or not varied:
        return None
    ids = {camera.id for camera in varied}
    rest = Joint()
    for camera in on_it:
        if camera.id not in ids:
            rest.add(facts.camera_figures[camera.id])
    present = {kind.of(camera) for camera in varied}
    values = tuple(sorted({*kind.values, *(present if len(present) <= 3 else ())}))
    rows: list[tuple[float, ...]] = []
    recorder = facts.recorders[recorder_id]
    for value in values:
        figures = [
            camera_figures(
                changed(camera, measured_mbps=None, **kind.fields(camera, value)),
                facts.schedule_hours.get(camera.schedule, NO_HOURS),
                facts.job.assumed.as_assumed(),
            )
            for camera in varied
        ]
        joint = rest.copy()
        for one in figures:
            joint.add(one)
        gb, (gb_low, gb_high) = joint.gb_per_day, joint.gb_range()
        if gb > 1e-9:
            days = (erased(days_kept(got.usable_tb, each), recorder) for each in (gb, gb_high, gb_low))
            rows.append((value, *days))
    if len(rows) < 2:
        return None
    return DaysCurve(
        setting=kind,
        values=tuple(row[0] for row in rows),
        days=tuple(row[1] for row in rows),
        days_low=tuple(row[2] for row in rows),
        days_high=tuple(row[3] for row in rows),
        cameras=len(varied),
        now=present.pop() if len(present) == 1 else None,
    )
