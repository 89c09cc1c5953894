"""The columns of the Sizing page's two tables: what each camera sends and stores, and each recorder's drives and limits."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.cap_cost import short_cap_cost
from eager_lens.core.assess.figures.devices import life_of
from eager_lens.core.assess.finding import Severity
from eager_lens.core.job.fields import CAMERA_FIELDS, RECORDER_FIELDS, field_named
from eager_lens.core.job.model import Camera, Recorder
from eager_lens.core.options.curves import Setting
from eager_lens.core.present.working import FigureRef
from eager_lens.core.sizing.drive_life import DriveLife
from eager_lens.core.units import figure, fixed
from eager_lens.core.validation import at_most
from eager_lens.desk.widgets.columns import device_column, rate_column, stored_column
from eager_lens.desk.widgets.record_model import Mark, TableColumn


def _hours_by_mode(camera: Camera, assessment: Assessment) -> str:
    got = assessment.camera(camera.id)
    parts = (
        ("continuous", got.always_h_per_day),
        ("motion", got.motion_h_per_day - got.either_h_per_day),
        ("alarm input", got.input_h_per_day),
        ("motion or alarm", got.either_h_per_day),
    )
    return " · ".join(f"{mode} {figure(hours)}" for mode, hours in parts if hours) or "off"


def _at_cap(camera: Camera, assessment: Assessment) -> str:
    at = assessment.camera(camera.id).at_cap
    return "–" if at is None else short_cap_cost(at)


def _bar(camera: Camera, assessment: Assessment) -> float:
    largest = assessment.facts.largest_gb_per_day
    return assessment.camera(camera.id).gb_per_day / largest if largest else 0.0


def _sum(name: str, places: int) -> Callable[[Sequence[Camera], Assessment], str]:
    """The sum of a figure over a group's cameras."""
    return lambda cameras, a: fixed(sum(getattr(a.camera(camera.id), name) for camera in cameras), places)


CAMERA_COLUMNS: tuple[TableColumn, ...] = (
    device_column(field_named(CAMERA_FIELDS, "name"), 150, "Camera"),
    device_column(field_named(CAMERA_FIELDS, "picture"), 88),
    device_column(field_named(CAMERA_FIELDS, "fps"), 44, ""),
    device_column(field_named(CAMERA_FIELDS, "cap_mbps"), 74, "Cap", assumed=lambda camera, _: camera.cap_assumed),
    TableColumn(
        "at_cap",
        "At cap",
        _at_cap,
        unit="% day / night",
        align="right",
        width=124,
        working=lambda c: FigureRef("rate", c.id),
    ),
    rate_column(78, group=_sum("rate_mbps", 1)),
    stored_column(124, bar=_bar, group=_sum("gb_per_day", 0)),
    device_column(field_named(CAMERA_FIELDS, "scene"), 150),
    device_column(field_named(CAMERA_FIELDS, "schedule"), 150),
    device_column(field_named(CAMERA_FIELDS, "measured_when"), 126),
    device_column(field_named(CAMERA_FIELDS, "measured_min"), 126),
    TableColumn("hours", "Hours", _hours_by_mode, unit="h a day", width=190),
    device_column(field_named(CAMERA_FIELDS, "codec"), 66),
    device_column(field_named(CAMERA_FIELDS, "quality"), 66),
    device_column(field_named(CAMERA_FIELDS, "key_frame_s"), 100),
    device_column(field_named(CAMERA_FIELDS, "rate_control"), 130),
    TableColumn("peak", "Peak", lambda c, a: fixed(a.camera(c.id).peak_mbps, 1), unit="Mb/s", align="right", width=96),
)

SETTING_OF_COLUMN: dict[str, Setting] = {"fps": "fps", "picture": "width_px", "key_frame_s": "key_frame_s"}


def _life(words: Callable[[DriveLife], str]) -> Callable[[Recorder, Assessment], str]:
    """What recording does to a recorder's drives, in words."""

    def show(recorder: Recorder, assessment: Assessment) -> str:
        life = life_of(recorder, assessment.recorder(recorder.id))
        return "–" if life is None else words(life)

    return show


def _worn(recorder: Recorder, assessment: Assessment) -> Mark:
    life = life_of(recorder, assessment.recorder(recorder.id))
    over = life is not None and not at_most(life.written_tb_per_year, recorder.drive_rated_tb_per_year)
    return Severity.WARNING if over else None


def _drives_working(recorder: Recorder) -> FigureRef:
    return FigureRef("drives", recorder.id)


def _own(*names: tuple[str, int]) -> tuple[TableColumn, ...]:
    return tuple(device_column(field_named(RECORDER_FIELDS, name), width) for name, width in names)


def _chance(id: str, heading: str, share_of: Callable[[DriveLife], float | None]) -> TableColumn:
    """A column of what may go wrong in a rebuild."""

    def shown(life: DriveLife) -> str:
        share = share_of(life)
        return "–" if share is None else figure(100 * share)

    return TableColumn(id, heading, _life(shown), unit="%", align="right", width=140, working=_drives_working)


RECORDER_COLUMNS: tuple[TableColumn, ...] = (
    *_own(
        ("name", 150),
        ("drives", 56),
        ("drive_tb", 96),
        ("raid_level", 140),
        ("bays", 50),
        ("hot_spares", 58),
        ("reserve_share", 80),
        ("erase_after_days", 110),
    ),
    TableColumn(
        "written",
        "Written to each",
        _life(lambda life: figure(life.written_tb_per_year)),
        unit="TB a year",
        align="right",
        width=180,
        mark=_worn,
        working=_drives_working,
    ),
    TableColumn(
        "rebuild",
        "Rebuild",
        _life(lambda life: "–" if life.rebuild_h is None else figure(life.rebuild_h)),
        unit="h",
        align="right",
        width=84,
        working=_drives_working,
    ),
    _chance("lost", "Second drive fails", lambda life: life.second_failure_share),
    _chance("unreadable", "Unreadable sector", lambda life: life.unreadable_share),
    *_own(
        ("drive_rated_tb_per_year", 160),
        ("rebuild_mb_per_s", 120),
        ("drive_failures_per_year", 150),
        ("channels", 74),
        ("incoming_limit_mbps", 138),
        ("largest_megapixels", 180),
        ("codecs", 150),
    ),
)
