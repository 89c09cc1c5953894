"""The customer's part: what records when, how long it is kept, how to find a clip, what to look at, whom to call."""

from __future__ import annotations

from collections import Counter

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.limits import keeps
from eager_lens.core.exchange.sheets import Bullets, Sheet, SheetColumn, SheetTable
from eager_lens.core.handover.offer import PURPOSE_WORDS, days_alike
from eager_lens.core.job.model import Camera
from eager_lens.core.units import count, figure

FIND_A_CLIP = (
    "Know the time first: ask when it happened, and whether that clock was right.",
    "On the recorder, select the camera and the day, and go to five minutes before that time.",
    "Play it; where recording is on motion, go to the next event if nothing is there.",
    "Mark where it begins and where it ends, with a minute to spare on both sides.",
    "Export it to a stick or disk together with its player, and name it by place, day and time.",
    "Play the exported clip once on another computer before anything is written over.",
    "Note who exported what, when, for whom. Hand over the export and keep a second one.",
)
IN_TIME = "Export at once what the police or an insurer may ask for: it is written over when its days are up."

EVERY_MONTH = (
    "Look at every picture, by day and after dark: sharp, in place, nothing grown or built into the view.",
    "Compare the recorder's clock with a telephone: more than a few seconds off is a fault to report.",
    "Find a clip of yesterday and one of the oldest day that should still be there.",
    "See that the recorder calls its drives healthy and shows no warning.",
    "Wipe domes and lenses with a soft, damp cloth; sweep webs away from infrared. Nobody alone on a ladder.",
    "See that the signs are up and can be read.",
)

LAW = (
    "Who films people answers for it: a purpose for each camera, no more of the picture and no longer kept than that needs, signs "
    "at every way in, and somebody who answers those who ask. Sound stays off unless the law and those concerned allow it. The "
    "law of the place decides; this sheet replaces no advice."
)

_PAIRS = (SheetColumn("", 0.28), SheetColumn("", 0.72))


def customer_sheets(assessment: Assessment) -> tuple[Sheet, ...]:
    """The customer's part, in the order in which it is needed."""
    return (_records_when(assessment), _clip(assessment), _monthly(assessment), _sign(assessment))


def kept_words(assessment: Assessment) -> str:
    """What is promised of the days, in a sentence."""
    least, promised = assessment.job.retention.least_days, assessment.whole.promised_days
    if promised is None:
        return f"At least {figure(least)} days were asked; nothing fills the drives as planned."
    if keeps(promised, least):
        return f"At least {figure(least)} days."
    return f"{figure(promised)} days can be promised; {figure(least)} were asked. See the open points."


def _records_when(assessment: Assessment) -> Sheet:
    job = assessment.job
    by_schedule: dict[str, list[str]] = {}
    for camera in job.cameras:
        by_schedule.setdefault(camera.schedule, []).append(camera.name)
    rows = [
        (schedule.name, days_alike(schedule), ", ".join(by_schedule[schedule.id]))
        for schedule in job.schedules
        if schedule.id in by_schedule
    ]
    without = by_schedule.get("", [])
    if without:
        rows.append(("no schedule", "nothing is recorded by schedule", ", ".join(without)))
    most = job.retention.most_days
    erased = f"Erased after {figure(most)} days at the latest." if most is not None else ""
    meaning = (
        "That many days back a picture is still there, on the year's worst day in 95 of 100 years: busy weeks and long "
        "nights fill the drives faster, and quiet ones leave room. What is older is written over, the oldest first."
    )
    kept = [("Pictures are kept", kept_words(assessment)), ("What that means", meaning)]
    if erased:
        kept.append(("And no longer than", erased))
    columns = (SheetColumn("Schedule", 0.2), SheetColumn("When", 0.4), SheetColumn("Cameras", 0.4))
    blocks = (
        SheetTable(columns, tuple(rows), "What records when"),
        SheetTable(_PAIRS, tuple(kept), "How long it is kept"),
        SheetTable(_PAIRS, _whom(assessment), "Whom to call"),
        _purposes(job.cameras),
    )
    return Sheet("For the customer", f"{count(len(job.cameras), 'camera')} at {job.site or job.name}.", blocks)


def _purposes(cameras: tuple[Camera, ...]) -> SheetTable:
    by_place: dict[str, Counter[str]] = {}
    for camera in cameras:
        by_place.setdefault(camera.place or "Other", Counter())[camera.purpose] += 1
    rows = tuple(
        (place, "; ".join(f"{many} where {PURPOSE_WORDS[purpose]}" for purpose, many in purposes.items()))
        for place, purposes in by_place.items()
    )
    return SheetTable(
        (SheetColumn("Place", 0.28), SheetColumn("What the cameras there are for", 0.72)), rows, "What is seen where"
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
    columns = (SheetColumn("Date", 0.2), SheetColumn("What was found", 0.6), SheetColumn("Who", 0.2))
    return Sheet(
        "Every month",
        "Ten minutes that show a fault before it is needed.",
        (Bullets(EVERY_MONTH), SheetTable(columns, dates, "Noted", to_write_in=True)),
        follows=True,
    )


def _sign(assessment: Assessment) -> Sheet:
    job = assessment.job
    days = job.retention.most_days if job.retention.most_days is not None else job.retention.least_days
    rows = (
        ("This place is filmed", job.site or "……"),
        ("By", job.customer or "……"),
        ("What for", "……  (for instance: protection of persons and property)"),
        ("Kept for", f"{figure(days)} days" + (" at most" if job.retention.most_days is not None else "")),
        ("Ask", f"{job.customer or '……'}, telephone ……, for what is kept of you and to have it erased"),
    )
    return Sheet("Text for the signs", LAW, (SheetTable(_PAIRS, rows),), follows=True)
