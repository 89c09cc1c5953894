"""The customer's part: what records when, how long it is kept, how to find a clip, what to look at, whom to call."""

from __future__ import annotations

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.model import Camera
from eager_lens.core.outgoing.formats.sheets import Bullets, Sheet, SheetColumn, SheetTable
from eager_lens.core.outgoing.handover.offer import days_alike
from eager_lens.core.outgoing.handover.statements import (
    caps_words,
    erased_words,
    kept,
    kept_words,
    purposes_words,
    sign_words,
)
from eager_lens.core.units import count

FIND_A_CLIP = (
    "First find out when it happened, and whether that clock was right.",
    "On the recorder, select the camera and the day, and start five minutes before that time.",
    "Play it. If the camera records on motion and nothing is there, go to the next event.",
    "Mark beginning and end, with a minute to spare on both sides.",
    "Export it to a USB stick or disk together with its player, and name it by place, day and time.",
    "Play the exported clip on another computer before the original is overwritten.",
    "Note who exported what, when and for whom. Hand over the export and keep a copy.",
)
IN_TIME = "Export at once what the police or an insurer may ask for, because it is overwritten after some days."

EVERY_MONTH = (
    "Look at every picture, by day and after dark: sharp, correctly aimed, nothing grown or built into the view.",
    "Compare the recorder's clock with a telephone: more than a few seconds off is a fault to report.",
    "Find a clip from yesterday and one from the oldest day that should still be there.",
    "Check that the recorder reports its drives healthy and shows no warning.",
    "Wipe domes and lenses with a soft, damp cloth; remove cobwebs near infrared lamps. Never work on a ladder alone.",
    "Check that the signs are up and legible.",
)

LAW = (
    "You are responsible for filming people: a purpose for each camera, no larger view and no longer retention than that "
    "purpose needs, signs at every entrance, and a person who answers questions. Sound stays off unless the law and the "
    "persons concerned allow it. Local law decides; this sheet does not replace legal advice."
)

_PAIRS = (SheetColumn("", 0.28), SheetColumn("", 0.72))


def customer_sheets(assessment: Assessment) -> tuple[Sheet, ...]:
    """The customer's part, in the order in which it is needed."""
    return (_records_when(assessment), _clip(assessment), _monthly(assessment), _sign(assessment))


def _records_when(assessment: Assessment) -> Sheet:
    job, said = assessment.job, kept(assessment)
    by_schedule: dict[str, list[str]] = {}
    for camera in said.recorded:
        by_schedule.setdefault(camera.schedule, []).append(camera.name)
    rows = [
        (schedule.name, days_alike(schedule), "; ".join(by_schedule[schedule.id]))
        for schedule in job.schedules
        if schedule.id in by_schedule
    ]
    names = {camera.id: camera.name for camera in job.cameras}
    not_recorded = [f"{names[one]}: {why}" for one, why in said.nowhere.items()]
    if not_recorded:
        rows.append(("Not recorded", "–", "; ".join(not_recorded)))
    how_long = [
        ("Pictures are kept", kept_words(said)),
        (
            "What that means",
            "Recordings go back at least this many days, in busy weeks and long nights too, if settings and "
            "traffic are as assumed. Older recordings are overwritten, the oldest first.",
        ),
    ]
    if longest := erased_words(said):
        how_long.append(("At most", longest))
    if caps := caps_words(said):
        how_long.append(("Bit rates", caps))
    columns = (
        SheetColumn("Schedule", 0.2),
        SheetColumn("When", 0.4),
        SheetColumn("Cameras", 0.4),
    )
    blocks = (
        SheetTable(columns, tuple(rows), "What records when"),
        SheetTable(_PAIRS, tuple(how_long), "How long it is kept"),
        SheetTable(_PAIRS, _whom(assessment), "Whom to call"),
        _purposes(assessment),
    )
    return Sheet(
        "For the customer",
        f"{count(len(job.cameras), 'camera')} at {job.site or job.name}.",
        blocks,
    )


def _purposes(assessment: Assessment) -> SheetTable:
    by_place: dict[str, list[Camera]] = {}
    for camera in assessment.job.cameras:
        by_place.setdefault(camera.place or "Other", []).append(camera)
    rows = tuple((place, purposes_words(assessment, cameras)) for place, cameras in by_place.items())
    return SheetTable(
        (SheetColumn("Place", 0.28), SheetColumn("Purpose of these cameras", 0.72)),
        rows,
        "Where the cameras are",
    )


def _whom(assessment: Assessment) -> tuple[tuple[str, str], ...]:
    job = assessment.job
    firm = ", ".join(part for part in (job.prepared_by, job.contact) if part)
    return (
        ("Faults and questions", firm or "to be filled in"),
        ("An incident", "The police first; then export the clip."),
        ("Mains power, lightning, earthing", "A licensed electrician."),
    )


def _clip(assessment: Assessment) -> Sheet:
    return Sheet(
        "Finding and exporting a clip",
        IN_TIME,
        (Bullets(FIND_A_CLIP, numbered=True),),
    )


def _monthly(assessment: Assessment) -> Sheet:
    dates = tuple(("", "", "") for _ in range(6))
    columns = (
        SheetColumn("Date", 0.2),
        SheetColumn("What was found", 0.6),
        SheetColumn("Who", 0.2),
    )
    return Sheet(
        "Every month",
        "Ten minutes that show a fault before the recording is needed.",
        (Bullets(EVERY_MONTH), SheetTable(columns, dates, "Noted", to_write_in=True)),
        follows=True,
    )


def _sign(assessment: Assessment) -> Sheet:
    job = assessment.job
    rows = (
        ("Video surveillance", job.site or "……"),
        ("By", job.customer or "……"),
        ("Purpose", "……  (for example: protection of persons and property)"),
        ("Kept for", sign_words(kept(assessment))),
        ("Ask", f"{job.customer or '……'}, telephone ……, about recordings of you; local law says what else you may ask"),
    )
    return Sheet("Text for the signs", LAW, (SheetTable(_PAIRS, rows),), follows=True)
