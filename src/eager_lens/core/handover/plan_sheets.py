"""The handover sheets: what stands on them, in which order."""

from collections.abc import Sequence

from eager_lens.core.addressing.ipv4 import address_number, subnet_of
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures import run_figures
from eager_lens.core.assess.finding import Severity
from eager_lens.core.exchange.cells import Cell
from eager_lens.core.exchange.sheets import Block, Bullets, Sheet, SheetColumn, SheetSet, SheetTable, WeekStrip
from eager_lens.core.exchange.table_out import Table
from eager_lens.core.job.fields import MATERIAL_WORDS
from eager_lens.core.job.model import Device, Job, role_of
from eager_lens.core.options.assumptions import decisive
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
from eager_lens.core.units import count, figure, fixed

CAUTIONS: tuple[str, ...] = (
    "Local codes, the makers' instructions and licensed practice come before this sheet.",
    "Mains work, earthing, surge and lightning protection belong to licensed people.",
    "Work at height: not alone, ladder secured; look for hidden cables and pipes before drilling.",
    "Recording people is bound by privacy law: put up signs, keep pictures no longer than allowed, leave neighbours "
    "out of the view, and leave sound off unless the law and the customer both allow it.",
    "Remote access: use a relay service or a VPN; opening ports of the router is the last resort.",
    "Passwords do not stand on these sheets. Hand them over sealed, and change any that others have seen.",
    "Redundant drives are not a backup: export what must not be lost.",
)

CUSTOMER_NOTES: tuple[str, ...] = (
    "To find a clip: select the camera, the day and the time on the recorder, play it, then export it with its player.",
    "Export at once what the police or an insurer may ask for: it is written over when its days are up.",
    "Look at every picture once a month; clean domes and cut back branches.",
)


def cover_sheet(assessment: Assessment) -> Sheet:
    """Whose it is, and where each part stands."""
    job = assessment.job
    most = f", at most {figure(job.retention.most_days)} days" if job.retention.most_days is not None else ""
    pairs = (
        ("Customer", job.customer),
        ("Site", job.site),
        ("Prepared by", job.prepared_by),
        ("Contact", job.contact),
        ("Pictures kept", f"at least {figure(job.retention.least_days)} days{most}"),
        ("Cameras", figure(len(job.cameras), 9)),
        ("Recorders", ", ".join(recorder.name for recorder in job.recorders)),
        ("Note", job.note),
    )
    rows = tuple((label, text or "—") for label, text in pairs if text or label != "Note")
    answers = tuple(
        (STAGE_WORDS[stage], verdict_of(stage, assessment).sentence) for stage in STAGES if stage != "handover"
    )
    half = (SheetColumn("", 0.25), SheetColumn("", 0.75))
    return Sheet(
        "Handover",
        "What was planned and proved, for whoever looks after it next.",
        (
            SheetTable(half, rows),
            SheetTable(half, answers, "Where each part stands"),
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
        picture = f"{camera.width_px}×{camera.height_px}, {figure(camera.fps)} fps, {labels[camera.codec]}"
        rows.append(
            (camera.name, camera.place, picture, schedules.get(camera.schedule, "—"), places or "—", camera.make)
        )
    columns = (
        SheetColumn("Camera", 0.18),
        SheetColumn("Place", 0.11),
        SheetColumn("Resolution (px), frame rate, codec", 0.23),
        SheetColumn("Schedule", 0.2),
        SheetColumn("Recorder, channel", 0.16),
        SheetColumn("Make", 0.12),
    )
    return Sheet("Cameras", f"{count(len(rows), 'camera')}.", (SheetTable(columns, tuple(rows)),))


def runs_sheet(assessment: Assessment) -> Sheet:
    """Cables and power to the cameras."""
    rows = []
    for camera in assessment.job.cameras:
        run = run_figures(camera)
        volts = "—" if run is None else "none" if run.device_v is None else fixed(run.device_v, 1)
        rows.append(
            (
                camera.name,
                "—" if camera.cable_m is None else fixed(camera.cable_m, 0),
                f"{camera.awg} AWG {MATERIAL_WORDS[camera.cable_material]}" + (", outdoors" if camera.outdoor else ""),
                "none" if camera.poe_class is None else str(camera.poe_class),
                fixed(camera.power_w, 1),
                volts if run is None or run.voltage_ok else f"{volts} (needs {figure(run.least_v)})",
            )
        )
    columns = (
        SheetColumn("Camera", 0.24),
        SheetColumn("Cable, m", 0.1, "right"),
        SheetColumn("Wire", 0.3),
        SheetColumn("PoE class", 0.08, "right"),
        SheetColumn("Draws, W", 0.1, "right"),
        SheetColumn("Volts at the camera", 0.18, "right"),
    )
    intro = (
        "Power over each run, from the lowest voltage that its PoE class guarantees; the draw at night is estimated."
    )
    return Sheet("Runs and power", intro, (SheetTable(columns, tuple(rows)),))


def ports_sheet(assessment: Assessment) -> Sheet:
    """Every device port by port, as it is to be labelled."""
    facts = assessment.facts
    columns = (
        SheetColumn("Port", 0.09, "right"),
        SheetColumn("What", 0.27),
        SheetColumn("Cable", 0.28),
        SheetColumn("Mb/s of capacity", 0.14, "right"),
        SheetColumn("Gives, W of allocated", 0.11, "right"),
        SheetColumn("Volts there", 0.11, "right"),
    )
    tables = []
    for device in facts.suppliers:
        rows = tuple(
            (
                str(row.port) if row.port else "—",
                row.what,
                row.cable,
                "" if row.load_mbps is None else f"{fixed(row.load_mbps, 1)} of {figure(row.capacity_mbps or 0.0)}",
                "" if row.draw_w is None else f"{fixed(row.draw_w, 1)} of {figure(row.allocated_w or 0.0)}",
                "" if row.device_v is None else fixed(row.device_v, 1),
            )
            for row in port_rows(facts, device.id)
            if row.device_id
        )
        if rows:
            tables.append(SheetTable(columns, rows, f"{device.name}{', ' + device.place if device.place else ''}"))
    intro = "What is plugged in where, as planned." if tables else "Nothing is connected yet."
    return Sheet("Port by port", intro, tuple(tables))


def parts_sheet(assessment: Assessment) -> Sheet:
    """The parts list."""
    rows = tuple((part.group, part.what, part.quantity_words(), part.note) for part in parts_list(assessment.facts))
    columns = (
        SheetColumn("Group", 0.2),
        SheetColumn("What", 0.42),
        SheetColumn("Quantity", 0.13, "right"),
        SheetColumn("Note", 0.25),
    )
    intro = "For the wiring as planned; check it against the site before ordering."
    return Sheet("Parts", intro, (SheetTable(columns, rows),))


def addresses_sheet(assessment: Assessment) -> Sheet:
    """Subnets, and the address of every device."""
    intro = "Every device keeps the address that is planned here; none is leased."
    return Sheet("Addresses", intro, (_subnet_table(assessment.job), _device_table(assessment)))


_SUBNET_COLUMNS = (
    SheetColumn("Subnet", 0.2),
    SheetColumn("Range", 0.2),
    SheetColumn("Mask", 0.2),
    SheetColumn("Gateway", 0.16),
    SheetColumn("DHCP pool", 0.24),
)


def _subnet_table(job: Job) -> SheetTable:
    rows = tuple(
        (
            plan.name,
            plan.cidr,
            subnet_of(plan.cidr).mask_text,
            plan.gateway or "none",
            f"{plan.pool_first} to {plan.pool_last}" if plan.pool_first else "none",
        )
        for plan in job.subnets
    )
    return SheetTable(_SUBNET_COLUMNS, rows)


_DEVICE_COLUMNS = (
    SheetColumn("Address", 0.12),
    SheetColumn("Device", 0.21),
    SheetColumn("Kind", 0.09),
    SheetColumn("Place", 0.12),
    SheetColumn("MAC address", 0.17),
    SheetColumn("Serial", 0.12),
    SheetColumn("Subnet", 0.17),
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
        promised, mean = ("no limit" if days is None else figure(days) for days in (got.promised_days, got.mean_days))
        rows.append(
            (
                recorder.name,
                f"{recorder.drives} × {figure(recorder.drive_tb)} TB, {LEVEL_WORDS[recorder.raid_level]}",
                f"{figure(got.usable_tb)} ({figure(got.usable_tb * TIB_PER_TB)} TiB)",
                figure(got.gb_per_day),
                promised,
                mean,
                f"{figure(got.incoming_mbps)} of {figure(recorder.incoming_limit_mbps)}",
            )
        )
    columns = (
        SheetColumn("Recorder", 0.18),
        SheetColumn("Drives", 0.24),
        SheetColumn("Usable, TB", 0.16, "right"),
        SheetColumn("GB a day", 0.1, "right"),
        SheetColumn("Days promised", 0.1, "right"),
        SheetColumn("Days, mean", 0.1, "right"),
        SheetColumn("Incoming, Mb/s", 0.12, "right"),
    )
    blocks: list[Block] = [SheetTable(columns, tuple(rows))]
    for recorder in job.recorders:
        working = working_of(FigureRef("days", recorder.id), assessment)
        if working:
            lines = tuple((line.label, line.value, line.origin) for line in working.lines)
            wide = (SheetColumn("What", 0.4), SheetColumn("Value", 0.42), SheetColumn("Origin", 0.18))
            caption = f"{working.title}: {working.value}"
            blocks.append(SheetTable(wide, lines, caption, f"{working.formula}. Source: {working.source}."))
    blocks += [_per_camera(assessment), _assumed(assessment)]
    return Sheet(
        "Storage and bandwidth",
        "Bit rates are assumed unless marked as measured. Real scenes of a kind differ several times over; the promise counts it.",
        tuple(blocks),
    )


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
        SheetColumn("Assumed", 0.34),
        SheetColumn("Value", 0.12),
        SheetColumn("Range, 8 of 10", 0.14),
        SheetColumn("Of the spread", 0.1, "right"),
        SheetColumn("Where it comes from", 0.3),
    )
    return SheetTable(columns, rows, "What is assumed, and how much of the spread of days kept comes from it")


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
        SheetColumn("Camera", 0.36),
        SheetColumn("Bit rate, Mb/s", 0.14, "right"),
        SheetColumn("Origin", 0.16),
        SheetColumn("Recorded, h a day", 0.18, "right"),
        SheetColumn("GB a day", 0.16, "right"),
    )
    return SheetTable(columns, rows, "By camera")


def schedules_sheet(assessment: Assessment) -> Sheet:
    """When cameras record."""
    blocks: list[Block] = []
    for schedule in assessment.job.schedules:
        hours = assessment.facts.schedule_hours[schedule.id]
        used = [camera.name for camera in assessment.job.cameras if camera.schedule == schedule.id]
        recorded = (mode for mode in MODES if hours[mode] and mode != "off")
        parts = ", ".join(f"{mode} {figure(hours[mode])} h" for mode in recorded)
        days = tuple((DAY_WORDS[day], flat_spans(schedule.plan.of_day(day))) for day in DAYS)
        caption = f"{parts or 'nothing recorded'}; {count(len(used), 'camera')}"
        alarms = schedule_hours(schedule.alarms)["continuous"]
        caption += f"; alarms pop up in {figure(alarms)} h" if alarms else ""
        blocks.append(WeekStrip(schedule.name, days, caption))
    if assessment.job.exceptions:
        blocks.append(_exceptions(assessment))
    return Sheet("Schedules", "When cameras record, and how. Time left empty is not recorded.", tuple(blocks))


def _exceptions(assessment: Assessment) -> SheetTable:
    """Dates on which another week holds."""
    names = {schedule.id: schedule.name for schedule in assessment.job.schedules}
    rows = []
    for exception in assessment.job.exceptions:
        form = "%d %B" if exception.yearly else "%d %B %Y"
        when = f"{exception.first:{form}} to {exception.last:{form}}" + (", every year" if exception.yearly else "")
        days = ", ".join(DAY_WORDS[day] for day in exception.days) or "all days"
        rows.append(
            (
                exception.name,
                when,
                days,
                names.get(exception.instead_of, "any schedule"),
                names.get(exception.schedule, "—"),
            )
        )
    columns = (
        SheetColumn("Exception", 0.2),
        SheetColumn("When", 0.3),
        SheetColumn("Days", 0.18),
        SheetColumn("Instead of", 0.16),
        SheetColumn("Schedule", 0.16),
    )
    return SheetTable(columns, tuple(rows), "Exceptions", "Where they overlap, the later one holds.")


def findings_sheet(assessment: Assessment) -> Sheet:
    """What is wrong or still open in the plan."""
    rows = tuple(
        (finding.severity.word, STAGE_WORDS[finding.stage], f"{finding.title}. {finding.why}", finding.action)
        for finding in assessment.findings
    )
    columns = (
        SheetColumn("", 0.09),
        SheetColumn("Part", 0.12),
        SheetColumn("What is so, and why it matters", 0.46),
        SheetColumn("What to do", 0.33),
    )
    faults = sum(finding.severity is Severity.FAULT for finding in assessment.findings)
    intro = f"{count(len(rows), 'finding')}, {count(faults, 'fault')} among them." if rows else "Nothing is open."
    blocks = [SheetTable(columns, rows)] if rows else []
    if assessment.accepted:
        blocks.append(_accepted(assessment))
    return Sheet("Still open", intro, tuple(blocks))


def accepted_sheet(assessment: Assessment) -> Sheet:
    """What somebody says is meant so."""
    intro = (
        "What differs from usual practice, and who says why."
        if assessment.accepted
        else "Nothing was accepted as it is."
    )
    return Sheet("Accepted as it is", intro, (_accepted(assessment),) if assessment.accepted else ())


def _accepted(assessment: Assessment) -> SheetTable:
    """What somebody says is meant so, with the reason: whoever comes next wants to know."""
    said = {(one.code, one.subjects): one for one in assessment.job.accepted}
    rows = []
    for finding in assessment.accepted:
        one = said[(finding.code.value, finding.subjects)]
        rows.append((STAGE_WORDS[finding.stage], finding.title, one.why or "no reason given", one.by or "—"))
    columns = (
        SheetColumn("Part", 0.12),
        SheetColumn("What is so", 0.4),
        SheetColumn("Why it is meant so", 0.33),
        SheetColumn("Who says so", 0.15),
    )
    return SheetTable(columns, tuple(rows), "Accepted as it is")


def cautions_sheet(assessment: Assessment) -> Sheet:
    """Short reminders of what can hurt."""
    return Sheet(
        "Cautions",
        "Short reminders; they replace neither training nor the rules of the place.",
        (Bullets(CAUTIONS),),
        follows=True,
    )


def handover_tables(sheets: SheetSet) -> list[Table]:
    """The tables of the sheets, for CSV and XLSX: each named by its sheet."""
    tables: list[Table] = []
    for sheet in sheets.sheets:
        parts = [block for block in sheet.blocks if isinstance(block, SheetTable) and block.rows]
        for at, block in enumerate(parts, 1):
            name = sheet.title if len(parts) == 1 else f"{sheet.title} {at}"
            rows: Sequence[tuple[Cell, ...]] = block.rows
            tables.append(Table(name, tuple(column.heading for column in block.columns), tuple(rows)))
    return tables
