"""The crew's part: what to mount where, and the list by which it is done."""

from __future__ import annotations

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import placing_of
from eager_lens.core.outgoing.formats.sheets import Sheet, SheetColumn, SheetTable
from eager_lens.core.outgoing.formats.texts import t
from eager_lens.core.runbook.mounting import mounted_devices, mounting_minutes, steps_of_job, steps_with
from eager_lens.core.units import count, figure


def mounting_sheet(assessment: Assessment) -> Sheet:
    """Where each device goes, and the steps with their cautions."""
    ticks = {tick.step: tick for tick in assessment.job.mounting}
    rows = []
    for camera in assessment.job.cameras:
        seen = placing_of(camera)
        aim = t("crew.m_off_down", value=figure(camera.target_m or 0), tilt_deg=figure(seen.tilt_deg)) if seen else "—"
        place = ", ".join(
            part for part in (camera.place, t("crew.outdoors") if camera.outdoor else t("crew.indoors")) if part
        )
        where = ", ".join(part for part in (camera.housing, camera.fixed_to) if part) or "—"
        own = steps_with(camera, assessment, ticks)
        done = sum(step.tick is not None for step in own)
        rows.append(
            (camera.name, place, where, figure(camera.mount_height_m), aim, t("crew.of", done=done, own=len(own)))
        )
    columns = (
        SheetColumn(t("crew.camera"), 0.24),
        SheetColumn(t("crew.place"), 0.24),
        SheetColumn(t("crew.housing_fixed_to"), 0.16),
        SheetColumn(t("crew.height_m"), 0.1, "right"),
        SheetColumn(t("crew.aim"), 0.16),
        SheetColumn(t("crew.steps_done"), 0.1, "right"),
    )
    steps = tuple(
        ("[    ]", step.stage, step.text.replace("{box}", "its make allows"), step.caution or "—")
        for step in steps_of_job(assessment.job)
    )
    listed = (
        SheetColumn("", 0.06),
        SheetColumn(t("crew.stage"), 0.14),
        SheetColumn(t("crew.step"), 0.44),
        SheetColumn(t("crew.caution"), 0.36),
    )
    minutes = sum(mounting_minutes(device, assessment) for device in mounted_devices(assessment.job))
    intro = t("crew.about_h_of_work_by_the", cameras=count(len(rows), "camera"), value=figure(minutes / 60, 2))
    return Sheet(
        t("crew.mounting"),
        intro,
        (
            SheetTable(columns, tuple(rows), t("crew.what_goes_where")),
            SheetTable(listed, steps, t("crew.the_list_for_each_device")),
        ),
    )
