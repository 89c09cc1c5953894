"""The crew's part: what to mount where, and the list by which it is done."""

from __future__ import annotations

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import placing_of
from eager_lens.core.outgoing.formats.sheets import Sheet, SheetColumn, SheetTable
from eager_lens.core.runbook.mounting import mounted_devices, mounting_minutes, steps_of_job, steps_with
from eager_lens.core.units import count, figure


def mounting_sheet(assessment: Assessment) -> Sheet:
    """Where each device goes, and the steps with their cautions."""
    ticks = {tick.step: tick for tick in assessment.job.mounting}
    rows = []
    for camera in assessment.job.cameras:
        seen = placing_of(camera)
        aim = f"{figure(camera.target_m or 0)} m away, {figure(seen.tilt_deg)}° down" if seen else "—"
        place = ", ".join(part for part in (camera.place, "outdoors" if camera.outdoor else "indoors") if part)
        where = ", ".join(part for part in (camera.housing, camera.fixed_to) if part) or "—"
        own = steps_with(camera, assessment, ticks)
        done = sum(step.tick is not None for step in own)
        rows.append((camera.name, place, where, figure(camera.mount_height_m), aim, f"{done} of {len(own)}"))
    columns = (
        SheetColumn("Camera", 0.24),
        SheetColumn("Place", 0.24),
        SheetColumn("Housing, fixed to", 0.16),
        SheetColumn("Height, m", 0.1, "right"),
        SheetColumn("Aim", 0.16),
        SheetColumn("Steps done", 0.1, "right"),
    )
    steps = tuple(
        ("[    ]", step.stage, step.text.replace("{box}", "its make allows"), step.caution or "—")
        for step in steps_of_job(assessment.job)
    )
    listed = (
        SheetColumn("", 0.06),
        SheetColumn("Stage", 0.14),
        SheetColumn("Step", 0.44),
        SheetColumn("Caution", 0.36),
    )
    minutes = sum(mounting_minutes(device, assessment) for device in mounted_devices(assessment.job))
    intro = (
        f"{count(len(rows), 'camera')}, about {figure(minutes / 60, 2)} h of work (assumed). Tick the steps of each device "
        "on the field sheet. Local codes, the makers' instructions and licensed practice come first."
    )
    return Sheet(
        "Mounting",
        intro,
        (
            SheetTable(columns, tuple(rows), "What goes where"),
            SheetTable(listed, steps, "The list for each device"),
        ),
    )
