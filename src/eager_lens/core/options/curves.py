"""Days that can be promised if one setting of some cameras were another: the curve on the Sizing page."""

from __future__ import annotations

from collections.abc import Generator, Iterable
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import NO_HOURS, camera_figures, erased
from eager_lens.core.assess.figures.promised import keeping_of
from eager_lens.core.job.measured import with_settings
from eager_lens.core.job.model import Camera
from eager_lens.core.reference.resolutions import of_width
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
            width_px, height_px = of_width(camera.width_px, camera.height_px, int(value))
            return {"width_px": width_px, "height_px": height_px}
        return {self.id: value}


SETTINGS: dict[Setting, SettingKind] = {
    kind.id: kind
    for kind in (
        SettingKind("fps", "Frame rate", "fps", (2, 3, 4, 5, 6, 8, 10, 12, 15, 18, 20, 25, 30)),
        SettingKind("key_frame_s", "Key-frame interval", "s", (0.5, 1, 1.5, 2, 3, 4, 5, 6, 8, 10)),
        SettingKind("width_px", "Picture width", "px", (640, 960, 1280, 1600, 1920, 2304, 2560, 2688, 3200, 3840)),
        SettingKind("events_per_h", "Events an hour", "an hour", (0, 1, 2, 5, 10, 20, 40, 60, 90, 120, 180)),
        SettingKind("post_recording_s", "Post-recording", "s", (0, 5, 10, 15, 20, 30, 45, 60, 90, 120)),
    )
}


@dataclass(frozen=True)
class DaysCurve:
    """Days that can be promised, and kept on the mean, against a setting. ``now`` is the setting's present value if all the
    cameras share one; at it the curve has the days of now."""

    setting: SettingKind
    values: tuple[float, ...]
    promised_days: tuple[float, ...]
    mean_days: tuple[float, ...]
    cameras: int
    now: float | None


def days_curve(
    assessment: Assessment, recorder_id: str, camera_ids: Iterable[str], setting: Setting
) -> Generator[float, None, DaysCurve | None]:
    """Days that a recorder keeps while the setting of some of its cameras is varied; a measured rate is carried to the other
    values by the model.

    Yields the share that is done and returns the curve; None when the recorder has no space, or nothing would be written at
    any value.
    """
    facts, kind, wanted = assessment.facts, SETTINGS[setting], set(camera_ids)
    on_it = facts.cameras_on.get(recorder_id, [])
    varied = [camera for camera in on_it if camera.id in wanted] or on_it
    got = facts.recorder_figures.get(recorder_id)
    if got is None or got.trouble or not varied:
        return None
    ids, recorder, assumed = (
        {camera.id for camera in varied},
        facts.recorders[recorder_id],
        facts.job.assumed.as_assumed(),
    )
    present = {kind.of(camera) for camera in varied}
    values = sorted({*kind.values, *(present if len(present) <= 3 else ())})
    rows: list[tuple[float, float, float]] = []
    for number, value in enumerate(values):
        cameras = [
            with_settings(camera, kind.fields(camera, value)) if camera.id in ids else camera for camera in on_it
        ]
        figures = [
            camera_figures(camera, facts.schedule_hours.get(camera.schedule, NO_HOURS), assumed)
            if camera.id in ids
            else facts.camera_figures[camera.id]
            for camera in cameras
        ]
        gb = sum(one.gb_per_day for one in figures)
        keeping = keeping_of(facts.calendar, facts.job.activity, got.usable_tb, cameras, figures) if gb > 1e-9 else None
        if keeping is not None:
            mean_days = days_kept(got.usable_tb, gb)
            rows.append((value, erased(keeping.promised(), recorder), erased(mean_days, recorder)))
        yield (number + 1) / len(values)
    if len(rows) < 2:
        return None
    by_value, promised, mean = zip(*rows, strict=True)
    now = present.pop() if len(present) == 1 else None
    return DaysCurve(kind, by_value, promised, mean, len(varied), now)
