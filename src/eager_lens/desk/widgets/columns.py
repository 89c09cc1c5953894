"""Table columns made from the job's device fields."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Severity
from eager_lens.core.job.edits import Edit, set_each
from eager_lens.core.job.fields import CAMERA_FIELDS, DeviceField, field_named
from eager_lens.core.job.model import Camera, Device, Job
from eager_lens.core.plain_text import inside
from eager_lens.core.present.working import FigureRef
from eager_lens.core.units import fixed
from eager_lens.desk.widgets.record_model import TableColumn
from eager_lens.desk.widgets.scene_pictures import scene_icon

ONE_BY_ONE = frozenset({"name", "address", "mac_address", "serial", "channel"})
"""Fields that are one device's own; typing one never gives it to several."""


def device_column(field: DeviceField, width: int = 90, heading: str | None = None, **more: Any) -> TableColumn:
    """A column that shows and edits a field of devices."""

    def edit(parts: Sequence[Device], text: str, job: Job) -> Edit:
        values = {part.id: field.parse(text, part, job) for part in parts}
        shown = text.strip() or "nothing"
        whom = parts[0].name if len(parts) == 1 else f"{len(parts)} devices"
        unit = f" {field.unit}" if field.unit and not text.strip().endswith(field.unit) else ""
        return set_each(f"Set {inside(field.heading)} {shown[:30]}{unit} on {whom}", values)

    return TableColumn(
        id=field.id,
        heading=field.heading if heading is None else heading,
        show=lambda part, assessment: field.show(part, assessment.job),
        edit=edit,
        choices=None if field.choices is None else (lambda part, job: field.choices(job) if field.choices else ()),
        unit=field.unit,
        align=field.align,
        width=width,
        one_by_one=field.id in ONE_BY_ONE,
        picture=scene_icon if field.id == "scene" else None,
        **more,
    )


def rate_column(width: int, **more: Any) -> TableColumn:
    """The bit rate of a camera's main stream; typing over it enters a measured one."""
    return TableColumn(
        id="rate",
        heading="Bit rate",
        unit="Mb/s",
        show=lambda camera, assessment: fixed(assessment.camera(camera.id).rate_mbps, 2),
        edit=device_column(field_named(CAMERA_FIELDS, "measured_mbps")).edit,
        align="right",
        width=width,
        assumed=_is_assumed,
        working=lambda camera: FigureRef("rate", camera.id),
        **more,
    )


def stored_column(width: int, **more: Any) -> TableColumn:
    """What a camera stores."""
    return TableColumn(
        id="gb",
        heading="Stored",
        unit="GB a day",
        show=lambda camera, assessment: fixed(assessment.camera(camera.id).gb_per_day, 1),
        align="right",
        width=width,
        assumed=_is_assumed,
        working=lambda camera: FigureRef("gb-per-day", camera.id),
        **more,
    )


def _is_assumed(camera: Camera, assessment: Assessment) -> bool:
    return assessment.camera(camera.id).rate_origin in ("assumed", "entered")


def marks_by_subject(assessment: Assessment, *stages: str) -> dict[str, Severity]:
    """The worst severity of each subject's findings, of all stages or of some."""
    marks: dict[str, Severity] = {}
    for finding in assessment.findings:
        if finding.severity > Severity.NOTE and (not stages or finding.stage in stages):
            for subject in finding.subjects:
                marks[subject] = max(marks.get(subject, Severity.NOTE), finding.severity)
    return marks
