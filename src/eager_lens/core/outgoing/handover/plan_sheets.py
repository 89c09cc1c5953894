"""The handover sheets: what stands on them, in which order."""

from collections import Counter
from collections.abc import Iterator

from eager_lens.core.addressing.ipv4 import address_number, subnet_of
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.devices import days_words
from eager_lens.core.assess.figures.stream_words import cap_words_of
from eager_lens.core.assess.finding import Severity
from eager_lens.core.assess.model_changes import MODEL
from eager_lens.core.job.fields import MATERIAL_WORDS
from eager_lens.core.job.model import Device, Job, role_of
from eager_lens.core.options.assumptions import decisive
from eager_lens.core.outgoing.formats.sheets import Block, Bullets, Sheet, SheetColumn, SheetTable, WeekStrip
from eager_lens.core.outgoing.formats.texts import t
from eager_lens.core.outgoing.handover.statements import kept, kept_words
from eager_lens.core.present.parts import parts_list
from eager_lens.core.present.ports import port_rows
from eager_lens.core.present.stages import STAGE_WORDS, STAGES, verdict_of
from eager_lens.core.present.working import FigureRef, working_of
from eager_lens.core.recording.week import (
    DAY_WORDS,
    DAYS,
    MODES,
    flat_spans,
    schedule_hours,
)
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.drives import LEVEL_WORDS, TIB_PER_TB
from eager_lens.core.units import count, days_figure, figure, fixed

CAUTIONS: tuple[str, ...] = (
    t("plan.local_codes_the_makers_instructions_and"),
    t("plan.mains_work_earthing_surge_and_lightning"),
    t("plan.work_at_height_not_alone_ladder"),
    t("plan.recording_people_is_bound_by_privacy"),
    t("plan.remote_access_use_a_relay_service"),
    t("plan.passwords_do_not_stand_on_these"),
    t("plan.redundant_drives_are_not_a_backup"),
)

CUSTOMER_NOTES: tuple[str, ...] = (
    t("plan.to_find_a_clip_select_the"),
    t("plan.export_at_once_what_the_police"),
    t("plan.look_at_every_picture_once_a"),
)


def cover_sheet(assessment: Assessment) -> Sheet:
    """Whose it is, and where each part stands."""
    job = assessment.job
    pairs = (
        (t("plan.customer"), job.customer),
        (t("plan.site"), job.site),
        (t("plan.prepared_by"), job.prepared_by),
        (t("plan.contact"), job.contact),
        (t("plan.pictures_kept"), kept_words(kept(assessment))),
        (t("plan.cameras"), figure(len(job.cameras), 9)),
        (t("plan.recorders"), ", ".join(recorder.name for recorder in job.recorders)),
        (t("plan.note"), job.note),
    )
    rows = tuple((label, text or "—") for label, text in pairs if text or label != "Note")
    answers = tuple(
        (STAGE_WORDS[stage], verdict_of(stage, assessment).sentence) for stage in STAGES if stage != "handover"
    )
    half = (SheetColumn("", 0.25), SheetColumn("", 0.75))
    return Sheet(
        t("plan.handover"),
        t("plan.what_was_planned_and_proved_for") if job.checks else t("plan.what_is_planned"),
        (
            SheetTable(half, rows),
            SheetTable(half, answers, t("plan.where_each_part_stands")),
            Bullets(CUSTOMER_NOTES),
        ),
    )


def cameras_sheet(assessment: Assessment) -> Sheet:
    """Every camera with its picture, schedule and channel."""
    job = assessment.job
    labels = stream_assumptions().codec_label
    recorders = {recorder.id: recorder.name for recorder in job.recorders}
    schedules = {schedule.id: schedule.name for schedule in job.schedules}
    rows = []
    for camera in job.cameras:
        places = "; ".join(f"{recorders.get(p.recorder, '?')} {p.channel}" for p in camera.registered)
        picture = t(
            "plan.fps",
            width_px=camera.width_px,
            height_px=camera.height_px,
            fps=figure(camera.fps),
            value=labels[camera.codec],
        )
        if cap := cap_words_of(camera):
            picture += f", {cap}"
        rows.append(
            (camera.name, camera.place, picture, schedules.get(camera.schedule, "—"), places or "—", camera.make)
        )
    columns = (
        SheetColumn(t("plan.camera"), 0.18),
        SheetColumn(t("plan.place"), 0.11),
        SheetColumn(t("plan.resolution_px_frame_rate_codec"), 0.23),
        SheetColumn(t("plan.schedule"), 0.2),
        SheetColumn(t("plan.recorder_channel"), 0.16),
        SheetColumn(t("plan.make"), 0.12),
    )
    return Sheet(t("plan.cameras"), f"{count(len(rows), 'camera')}.", (SheetTable(columns, tuple(rows)),))


def runs_sheet(assessment: Assessment) -> Sheet:
    """Cables and power to the cameras."""
    rows = []
    for camera in assessment.job.cameras:
        run = assessment.facts.run_of(camera)
        volts = "—" if run is None else t("plan.none") if run.device_v is None else fixed(run.device_v, 1)
        rows.append(
            (
                camera.name,
                "—" if camera.cable_m is None else fixed(camera.cable_m, 0),
                t("plan.awg", awg=camera.awg, value=MATERIAL_WORDS[camera.cable_material])
                + (t("plan.outdoors") if camera.outdoor else ""),
                t("plan.none") if camera.poe_class is None else str(camera.poe_class),
                fixed(camera.power_w, 1),
                volts if run is None or run.voltage_ok else t("plan.needs", volts=volts, least_v=figure(run.least_v)),
            )
        )
    columns = (
        SheetColumn(t("plan.camera"), 0.24),
        SheetColumn(t("plan.cable_m"), 0.1, "right"),
        SheetColumn(t("plan.wire"), 0.3),
        SheetColumn(t("plan.poe_class"), 0.08, "right"),
        SheetColumn(t("plan.draws_w"), 0.1, "right"),
        SheetColumn(t("plan.volts_at_the_camera"), 0.18, "right"),
    )
    intro = t("plan.power_over_each_run_from_the")
    return Sheet(t("plan.runs_and_power"), intro, (SheetTable(columns, tuple(rows)),))


def ports_sheet(assessment: Assessment) -> Sheet:
    """Every device port by port, as it is to be labelled."""
    facts = assessment.facts
    columns = (
        SheetColumn(t("plan.port"), 0.09, "right"),
        SheetColumn(t("plan.what"), 0.27),
        SheetColumn(t("plan.cable"), 0.28),
        SheetColumn(t("plan.mb_s_of_capacity"), 0.14, "right"),
        SheetColumn(t("plan.gives_w_of_allocated"), 0.11, "right"),
        SheetColumn(t("plan.volts_there"), 0.11, "right"),
    )
    tables = []
    for device in facts.suppliers:
        rows = tuple(
            (
                str(row.port) if row.port else "—",
                row.what,
                row.cable,
                ""
                if row.load_mbps is None
                else t("plan.of", load_mbps=fixed(row.load_mbps, 1), value=figure(row.capacity_mbps or 0.0)),
                ""
                if row.draw_w is None
                else t("plan.of_2", draw_w=fixed(row.draw_w, 1), value=figure(row.allocated_w or 0.0)),
                "" if row.device_v is None else fixed(row.device_v, 1),
            )
            for row in port_rows(facts, device.id)
            if row.device_id
        )
        if rows:
            tables.append(SheetTable(columns, rows, f"{device.name}{', ' + device.place if device.place else ''}"))
    intro = t("plan.what_is_plugged_in_where_as") if tables else t("plan.nothing_is_connected_yet")
    return Sheet(t("plan.port_by_port"), intro, tuple(tables))


def parts_sheet(assessment: Assessment) -> Sheet:
    """The parts list."""
    rows = tuple((part.group, part.what, part.quantity_words(), part.note) for part in parts_list(assessment.facts))
    columns = (
        SheetColumn(t("plan.group"), 0.2),
        SheetColumn(t("plan.what"), 0.42),
        SheetColumn(t("plan.quantity"), 0.13, "right"),
        SheetColumn(t("plan.note"), 0.25),
    )
    intro = t("plan.for_the_wiring_as_planned_check")
    return Sheet(t("plan.parts"), intro, (SheetTable(columns, rows),))


def addresses_sheet(assessment: Assessment) -> Sheet:
    """Subnets, and the address of every device."""
    ways = Counter(
        device.address_assignment if device.address else "none"
        for device in assessment.facts.devices
        if device.wants_address
    )
    intro = t(
        "plan.every_device_keeps_the_address_that",
        fixed=count(ways["static"] + ways["unmanaged"], "device"),
        reserved=ways["DHCP reservation"] + ways["by the recorder"],
        leased=ways["static from a lease"],
        without=ways["none"],
    )
    return Sheet(t("plan.addresses"), intro, (_subnet_table(assessment.job), _device_table(assessment)))


_SUBNET_COLUMNS = (
    SheetColumn(t("plan.subnet"), 0.2),
    SheetColumn(t("plan.range"), 0.2),
    SheetColumn(t("plan.mask"), 0.2),
    SheetColumn(t("plan.gateway"), 0.16),
    SheetColumn(t("plan.dhcp_pool"), 0.24),
)


def _subnet_table(job: Job) -> SheetTable:
    rows = tuple(
        (
            plan.name,
            plan.cidr,
            subnet_of(plan.cidr).mask_text,
            plan.gateway or t("plan.none"),
            t("plan.to", pool_first=plan.pool_first, pool_last=plan.pool_last) if plan.pool_first else t("plan.none"),
        )
        for plan in job.subnets
    )
    return SheetTable(_SUBNET_COLUMNS, rows)


_DEVICE_COLUMNS = (
    SheetColumn(t("plan.address"), 0.12),
    SheetColumn(t("plan.device"), 0.21),
    SheetColumn(t("plan.kind"), 0.09),
    SheetColumn(t("plan.place"), 0.12),
    SheetColumn(t("plan.mac_address"), 0.17),
    SheetColumn(t("plan.serial"), 0.12),
    SheetColumn(t("plan.subnet"), 0.17),
)


def _device_table(assessment: Assessment) -> SheetTable:
    names = {plan.id: plan.name for plan in assessment.job.subnets}
    rows = tuple(
        (
            device.address or "—",
            device.name,
            role_of(device),
            device.place,
            device.mac_address or "—",
            device.serial or "—",
            names.get(device.subnet, "—"),
        )
        for device in sorted(assessment.facts.devices, key=_by_address)
    )
    return SheetTable(_DEVICE_COLUMNS, rows)


def _by_address(device: Device) -> tuple[int, str]:
    return (address_number(device.address) if device.address else 2**32, device.name)


def storage_sheet(assessment: Assessment) -> Sheet:
    """Drives, days, bit rates, and how the days came about."""
    job, facts = assessment.job, assessment.facts
    rows = []
    for recorder in job.recorders:
        got = facts.recorder_figures[recorder.id]
        promised, mean = (days_words(days, got.keeps) for days in (got.promised_days, got.mean_days))
        certain = "—" if got.certain_days is None else days_words(got.certain_days, got.keeps)
        rows.append(
            (
                recorder.name,
                t(
                    "plan.tb",
                    drives=recorder.drives,
                    drive_tb=figure(recorder.drive_tb),
                    value=LEVEL_WORDS[recorder.raid_level],
                ),
                t("plan.tib", usable_tb=figure(got.usable_tb), value=figure(got.usable_tb * TIB_PER_TB)),
                figure(got.gb_per_day),
                certain,
                promised,
                mean,
                t(
                    "plan.of_3",
                    incoming_mbps=figure(got.incoming_mbps),
                    incoming_limit_mbps=figure(recorder.incoming_limit_mbps),
                ),
            )
        )
    columns = (
        SheetColumn(t("plan.recorder"), 0.17),
        SheetColumn(t("plan.drives"), 0.2),
        SheetColumn(t("plan.usable_tb"), 0.15, "right"),
        SheetColumn(t("plan.gb_a_day"), 0.09, "right"),
        SheetColumn(t("plan.days_certain"), 0.09, "right"),
        SheetColumn(t("plan.days_promised"), 0.09, "right"),
        SheetColumn(t("plan.days_mean"), 0.09, "right"),
        SheetColumn(t("plan.incoming_mb_s"), 0.12, "right"),
    )
    blocks: list[Block] = [SheetTable(columns, tuple(rows))]
    for recorder in job.recorders:
        working = working_of(FigureRef("days", recorder.id), assessment)
        if working:
            lines = tuple((line.label, line.value, line.origin) for line in working.lines)
            wide = (
                SheetColumn(t("plan.what"), 0.4),
                SheetColumn(t("plan.value"), 0.42),
                SheetColumn(t("plan.origin"), 0.18),
            )
            caption = f"{working.title}: {working.value}"
            blocks.append(
                SheetTable(wide, lines, caption, t("plan.source", formula=working.formula, source=working.source))
            )
    blocks += [*_handed_over(assessment), _per_camera(assessment), _assumed(assessment)]
    return Sheet(
        t("plan.storage_and_bandwidth"),
        t("plan.bit_rates_are_assumed_unless_marked"),
        tuple(blocks),
    )


MOST_HANDED_OVER = 12


def _handed_over(assessment: Assessment) -> Iterator[SheetTable]:
    """What papers said that were handed over, beside what is worked out today."""
    now = {recorder.id: assessment.recorder(recorder.id) for recorder in assessment.job.recorders}
    rows = []
    for one in assessment.job.handed_over[-MOST_HANDED_OVER:]:
        for then in one.recorders:
            got = now.get(then.id)
            today = "—" if got is None else days_words(got.promised_days, got.keeps)
            said = "—" if then.promised_days is None else days_figure(then.promised_days)
            rows.append((one.at.replace("T", " ")[:16], one.what, then.name, said, today, str(one.model)))
    if rows:
        columns = (
            SheetColumn(t("plan.date"), 0.16),
            SheetColumn(t("plan.handed_over_as"), 0.2),
            SheetColumn(t("plan.recorder"), 0.26),
            SheetColumn(t("plan.days_then"), 0.15, "right"),
            SheetColumn(t("plan.days_now"), 0.15, "right"),
            SheetColumn(t("plan.model"), 0.08, "right"),
        )
        yield SheetTable(columns, tuple(rows), t("plan.as_handed_over"), t("plan.as_handed_over_note", model=MODEL))


def _assumed(assessment: Assessment) -> SheetTable:
    rows = tuple(
        (
            f"{one.topic}: {one.words}",
            one.value,
            one.span,
            "" if one.share is None else f"{100 * one.share:.0f} %",
            one.why,
        )
        for one in decisive(assessment)
    )
    columns = (
        SheetColumn(t("plan.assumed"), 0.34),
        SheetColumn(t("plan.value"), 0.12),
        SheetColumn(t("plan.range_8_of_10"), 0.14),
        SheetColumn(t("plan.of_the_spread"), 0.1, "right"),
        SheetColumn(t("plan.where_it_comes_from"), 0.3),
    )
    return SheetTable(columns, rows, t("plan.what_is_assumed_and_how_much"))


def _per_camera(assessment: Assessment) -> SheetTable:
    rows = tuple(
        (
            camera.name,
            fixed(got.rate_mbps, 2),
            got.rate_origin,
            fixed(got.recorded_h_per_day, 1),
            fixed(got.gb_per_day, 1),
        )
        for camera in assessment.job.cameras
        for got in (assessment.camera(camera.id),)
    )
    columns = (
        SheetColumn(t("plan.camera"), 0.36),
        SheetColumn(t("plan.bit_rate_mb_s"), 0.14, "right"),
        SheetColumn(t("plan.origin"), 0.16),
        SheetColumn(t("plan.recorded_h_a_day"), 0.18, "right"),
        SheetColumn(t("plan.gb_a_day"), 0.16, "right"),
    )
    return SheetTable(columns, rows, t("plan.by_camera"))


def schedules_sheet(assessment: Assessment) -> Sheet:
    """When cameras record."""
    blocks: list[Block] = []
    for schedule in assessment.job.schedules:
        hours = assessment.facts.schedule_hours[schedule.id]
        used = [camera.name for camera in assessment.job.cameras if camera.schedule == schedule.id]
        recorded = (mode for mode in MODES if hours[mode] and mode != "off")
        parts = ", ".join(f"{mode} {figure(hours[mode])} h" for mode in recorded)
        days = tuple((DAY_WORDS[day], flat_spans(schedule.plan.of_day(day))) for day in DAYS)
        caption = f"{parts or t('plan.nothing_recorded')}; {count(len(used), 'camera')}"
        alarms = schedule_hours(schedule.alarms)["continuous"]
        caption += t("plan.alarms_pop_up_in_h", alarms=figure(alarms)) if alarms else ""
        blocks.append(WeekStrip(schedule.name, days, caption))
    if assessment.job.exceptions:
        blocks.append(_exceptions(assessment))
    return Sheet(t("plan.schedules"), t("plan.when_cameras_record_and_how_time"), tuple(blocks))


def _exceptions(assessment: Assessment) -> SheetTable:
    """Dates on which another week holds."""
    names = {schedule.id: schedule.name for schedule in assessment.job.schedules}
    rows = []
    for exception in assessment.job.exceptions:
        form = "%d %B" if exception.yearly else "%d %B %Y"
        when = t("plan.to_2", first=f"{exception.first:{form}}", last=f"{exception.last:{form}}") + (
            t("plan.every_year") if exception.yearly else ""
        )
        days = ", ".join(DAY_WORDS[day] for day in exception.days) or t("plan.all_days")
        rows.append(
            (
                exception.name,
                when,
                days,
                names.get(exception.instead_of, t("plan.any_schedule")),
                names.get(exception.schedule, "—"),
            )
        )
    columns = (
        SheetColumn(t("plan.exception"), 0.2),
        SheetColumn(t("plan.when"), 0.3),
        SheetColumn(t("plan.days"), 0.18),
        SheetColumn(t("plan.instead_of"), 0.16),
        SheetColumn(t("plan.schedule"), 0.16),
    )
    return SheetTable(columns, tuple(rows), t("plan.exceptions"), t("plan.where_they_overlap_the_later_one"))


def findings_sheet(assessment: Assessment) -> Sheet:
    """What is wrong or still open in the plan."""
    rows = tuple(
        (finding.severity.word, STAGE_WORDS[finding.stage], f"{finding.title}. {finding.why}", finding.action)
        for finding in assessment.findings
    )
    columns = (
        SheetColumn("", 0.09),
        SheetColumn(t("plan.part"), 0.12),
        SheetColumn(t("plan.what_is_so_and_why_it"), 0.46),
        SheetColumn(t("plan.what_to_do"), 0.33),
    )
    faults = sum(finding.severity is Severity.FAULT for finding in assessment.findings)
    intro = (
        t("plan.among_them", findings=count(len(rows), "finding"), faults=count(faults, "fault"))
        if rows
        else t("plan.nothing_is_open")
    )
    blocks = [SheetTable(columns, rows)] if rows else []
    if assessment.accepted:
        blocks.append(_accepted(assessment))
    return Sheet(t("plan.still_open"), intro, tuple(blocks))


def accepted_sheet(assessment: Assessment) -> Sheet:
    """What somebody says is meant so."""
    intro = (
        t("plan.what_differs_from_usual_practice_and")
        if assessment.accepted
        else t("plan.nothing_was_accepted_as_it_is")
    )
    return Sheet(t("plan.accepted_as_it_is"), intro, (_accepted(assessment),) if assessment.accepted else ())


def _accepted(assessment: Assessment) -> SheetTable:
    """What somebody says is meant so, with the reason: whoever comes next wants to know."""
    said = {(one.code, one.subjects): one for one in assessment.job.accepted}
    rows = []
    for finding in assessment.accepted:
        one = said[finding.key]
        rows.append((STAGE_WORDS[finding.stage], finding.title, one.why or t("plan.no_reason_given"), one.by or "—"))
    columns = (
        SheetColumn(t("plan.part"), 0.12),
        SheetColumn(t("plan.what_is_so"), 0.4),
        SheetColumn(t("plan.why_it_is_meant_so"), 0.33),
        SheetColumn(t("plan.who_says_so"), 0.15),
    )
    return SheetTable(columns, tuple(rows), t("plan.accepted_as_it_is"))


def cautions_sheet(assessment: Assessment) -> Sheet:
    """Short reminders of what can hurt."""
    return Sheet(
        t("plan.cautions"),
        t("plan.short_reminders_they_replace_neither_training"),
        (Bullets(CAUTIONS),),
        follows=True,
    )
