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
    "Local codes, the makers' instructions and licensed practice come before this sheet.",
    "Mains work, earthing, surge and lightning protection belong to licensed people.",
    "Work at height: never alone, ladder secured; look for hidden cables and pipes before drilling.",
    "Privacy law applies to recording people: put up signs, keep recordings no longer than allowed, exclude neighbours from "
    "the view, and leave sound off unless the law and the customer both allow it.",
    "Remote access: use a relay service or a VPN; opening router ports is the last resort.",
    "These papers contain no passwords. Hand them over sealed, and change any that others have seen.",
    "Redundant drives are not a backup: export what must not be lost.",
)

CUSTOMER_NOTES: tuple[str, ...] = (
    "To find a clip, select the camera, the day and the time on the recorder, play it, then export it with its player.",
    "Export at once what the police or an insurer may ask for, because it is overwritten after some days.",
    "Look at every picture once a month; clean domes and cut back branches.",
)


def cover_sheet(assessment: Assessment) -> Sheet:
    """Whose it is, and where each part stands."""
    job = assessment.job
    pairs = (
        ("Customer", job.customer),
        ("Site", job.site),
        ("Prepared by", job.prepared_by),
        ("Contact", job.contact),
        ("Pictures kept", kept_words(kept(assessment))),
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
        "The plan and the test results, for the next technician."
        if job.checks
        else "The plan; no acceptance tests have been done yet.",
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
        if cap := cap_words_of(camera):
            picture += f", {cap}"
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
        run = assessment.facts.run_of(camera)
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
        SheetColumn("Voltage at the camera, V", 0.18, "right"),
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
        SheetColumn("Voltage there, V", 0.11, "right"),
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
    intro = "All connections, port by port, as planned." if tables else "Nothing is connected yet."
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
    ways = Counter(
        device.address_assignment if device.address else "none"
        for device in assessment.facts.devices
        if device.wants_address
    )
    intro = (
        f"{count(ways['static'] + ways['unmanaged'], 'device')} with a fixed address, "
        f"{ways['DHCP reservation'] + ways['by the recorder']} by reservation or from the recorder, "
        f"{ways['static from a lease']} fixed from a lease, {ways['none']} without one."
    )
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
        promised, mean = (days_words(days, got.keeps) for days in (got.promised_days, got.mean_days))
        certain = "—" if got.certain_days is None else days_words(got.certain_days, got.keeps)
        rows.append(
            (
                recorder.name,
                f"{recorder.drives} × {figure(recorder.drive_tb)} TB, {LEVEL_WORDS[recorder.raid_level]}",
                f"{figure(got.usable_tb)} ({figure(got.usable_tb * TIB_PER_TB)} TiB)",
                figure(got.gb_per_day),
                certain,
                promised,
                mean,
                f"{figure(got.incoming_mbps)} of {figure(recorder.incoming_limit_mbps)}",
            )
        )
    columns = (
        SheetColumn("Recorder", 0.17),
        SheetColumn("Drives", 0.2),
        SheetColumn("Usable, TB", 0.15, "right"),
        SheetColumn("GB a day", 0.09, "right"),
        SheetColumn("Days, certain", 0.09, "right"),
        SheetColumn("Days promised", 0.09, "right"),
        SheetColumn("Days, expected", 0.09, "right"),
        SheetColumn("Incoming, Mb/s", 0.12, "right"),
    )
    blocks: list[Block] = [SheetTable(columns, tuple(rows))]
    for recorder in job.recorders:
        working = working_of(FigureRef("days", recorder.id), assessment)
        if working:
            lines = tuple((line.label, line.value, line.origin) for line in working.lines)
            wide = (
                SheetColumn("What", 0.4),
                SheetColumn("Value", 0.42),
                SheetColumn("Origin", 0.18),
            )
            caption = f"{working.title}: {working.value}"
            blocks.append(SheetTable(wide, lines, caption, f"{working.formula}. Source: {working.source}."))
    blocks += [*_handed_over(assessment), _per_camera(assessment), _assumed(assessment)]
    return Sheet(
        "Storage and bandwidth",
        "Bit rates are estimated unless marked as measured. Real bit rates can be several times higher or lower; the days "
        "promised allow for that.",
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
            SheetColumn("Date", 0.16),
            SheetColumn("Handed over as", 0.2),
            SheetColumn("Recorder", 0.26),
            SheetColumn("Days promised then", 0.15, "right"),
            SheetColumn("Days promised now", 0.15, "right"),
            SheetColumn("Model", 0.08, "right"),
        )
        yield SheetTable(
            columns,
            tuple(rows),
            "As handed over",
            f"Figures as handed over then, beside those calculated today with model {MODEL}.",
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
        SheetColumn("Origin of each figure", 0.3),
    )
    return SheetTable(columns, rows, "Assumptions, and how much of the spread of days kept each causes")


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
    return Sheet("Schedules", "When cameras record, and in which mode. Empty hours are not recorded.", tuple(blocks))


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
    return SheetTable(columns, tuple(rows), "Exceptions", "Where exceptions overlap, the later one wins.")


def findings_sheet(assessment: Assessment) -> Sheet:
    """What is wrong or still open in the plan."""
    rows = tuple(
        (finding.severity.word, STAGE_WORDS[finding.stage], f"{finding.title}. {finding.why}", finding.action)
        for finding in assessment.findings
    )
    columns = (
        SheetColumn("", 0.09),
        SheetColumn("Part", 0.12),
        SheetColumn("Finding, and why it matters", 0.46),
        SheetColumn("What to do", 0.33),
    )
    faults = sum(finding.severity is Severity.FAULT for finding in assessment.findings)
    intro = f"{count(len(rows), 'finding')}, including {count(faults, 'fault')}." if rows else "Nothing is open."
    blocks = [SheetTable(columns, rows)] if rows else []
    if assessment.accepted:
        blocks.append(_accepted(assessment))
    return Sheet("Still open", intro, tuple(blocks))


def accepted_sheet(assessment: Assessment) -> Sheet:
    """What somebody says is meant so."""
    intro = (
        "What differs from usual practice, who decided it and why."
        if assessment.accepted
        else "No finding was accepted as intended."
    )
    return Sheet("Accepted as intended", intro, (_accepted(assessment),) if assessment.accepted else ())


def _accepted(assessment: Assessment) -> SheetTable:
    """Accepted findings with their reasons, for the next technician."""
    said = {(one.code, one.subjects): one for one in assessment.job.accepted}
    rows = []
    for finding in assessment.accepted:
        one = said[finding.key]
        rows.append((STAGE_WORDS[finding.stage], finding.title, one.why or "no reason given", one.by or "—"))
    columns = (
        SheetColumn("Part", 0.12),
        SheetColumn("Finding", 0.4),
        SheetColumn("Reason", 0.33),
        SheetColumn("Decided by", 0.15),
    )
    return SheetTable(columns, tuple(rows), "Accepted as intended")


def cautions_sheet(assessment: Assessment) -> Sheet:
    """Short reminders of what can hurt."""
    return Sheet(
        "Cautions",
        "Short reminders; they replace neither training nor local rules.",
        (Bullets(CAUTIONS),),
        follows=True,
    )
