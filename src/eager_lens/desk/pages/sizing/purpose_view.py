"""Picture for the purpose: lens, height and distance of each camera, what that serves, and a sketch of the selected one."""

from __future__ import annotations

from itertools import chain

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import misses_purpose, placing_of
from eager_lens.core.assess.finding import Severity
from eager_lens.core.job.fields import CAMERA_FIELDS, field_named
from eager_lens.core.job.model import Camera
from eager_lens.core.optics.placing import focal_for
from eager_lens.core.present.working import FigureRef
from eager_lens.core.units import figure, fixed
from eager_lens.desk.pages.sizing.lens_sketch import LensSketch
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.columns import device_column
from eager_lens.desk.widgets.record_model import Mark, TableColumn
from eager_lens.desk.widgets.record_table import RecordTable


def _seen(camera: Camera, name: str, places: int) -> str:
    seen = placing_of(camera)
    value = None if seen is None else getattr(seen, name)
    return "–" if value is None else fixed(value, places)


def _serves(camera: Camera, assessment: Assessment) -> str:
    seen = placing_of(camera)
    return "–" if seen is None else seen.good_for


def _mark(camera: Camera, assessment: Assessment) -> Mark:
    if not camera.purpose or camera.target_m is None:
        return None
    return Severity.FAULT if misses_purpose(camera) else "done"


def _needed(camera: Camera, assessment: Assessment) -> str:
    seen = placing_of(camera)
    if seen is None or not camera.purpose:
        return "–"
    return figure(focal_for(camera.purpose, camera.sensor_width_mm, camera.width_px, seen.sight_m))


def _working(camera: Camera) -> FigureRef:
    return FigureRef("view", camera.id)


COLUMNS: tuple[TableColumn, ...] = (
    device_column(field_named(CAMERA_FIELDS, "name"), 150, "Camera"),
    device_column(field_named(CAMERA_FIELDS, "purpose"), 84),
    TableColumn("serves", "Good for", _serves, width=96, mark=_mark, working=_working),
    TableColumn(
        "px_per_m",
        "There",
        lambda c, a: _seen(c, "px_per_m", 0),
        unit="px/m",
        align="right",
        width=104,
        working=_working,
    ),
    device_column(field_named(CAMERA_FIELDS, "target_m"), 84),
    device_column(field_named(CAMERA_FIELDS, "focal_mm"), 112),
    TableColumn("needed", "Focal length needed", _needed, unit="mm", align="right", width=122, working=_working),
    TableColumn(
        "width",
        "Picture width there",
        lambda c, a: _seen(c, "width_m", 1),
        unit="m",
        align="right",
        width=100,
        working=_working,
    ),
    TableColumn(
        "blind",
        "Blind strip",
        lambda c, a: _seen(c, "blind_m", 1),
        unit="m",
        align="right",
        width=100,
        working=_working,
    ),
    device_column(field_named(CAMERA_FIELDS, "mount_height_m"), 106),
    device_column(field_named(CAMERA_FIELDS, "sensor_width_mm"), 118),
    device_column(field_named(CAMERA_FIELDS, "picture"), 88),
    device_column(field_named(CAMERA_FIELDS, "importance"), 92),
    device_column(field_named(CAMERA_FIELDS, "least_fps"), 140),
)


class PurposeView:
    """The table of what each camera serves, and the sketch of one of them; the page puts each where it has room."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.table = RecordTable(session, COLUMNS, group_by=lambda camera: camera.place)
        self.sketch = LensSketch()
        session.selection_changed.connect(self._draw)

    def show_assessment(self, assessment: Assessment, marks: dict[str, Severity]) -> None:
        """Fill the table and draw the sketch."""
        self.table.show_parts(assessment.job.cameras, assessment, marks)
        self._draw()

    def _draw(self) -> None:
        """Sketch the first selected camera; with none selected, the first that misses its purpose or has a target."""
        cameras = self.session.job.cameras
        # One after the other: to ask all cameras what they miss takes long where there are thousands.
        candidates = chain(
            (camera for camera in cameras if camera.id in self.session.selected),
            (camera for camera in cameras if misses_purpose(camera)),
            (camera for camera in cameras if camera.target_m is not None),
        )
        camera = next(candidates, None)
        self.sketch.show_camera(camera, None if camera is None else placing_of(camera))
