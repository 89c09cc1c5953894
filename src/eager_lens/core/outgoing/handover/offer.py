"""A page for the customer: what he gets, in his words, and what that rests on. Prices are the installer's own."""

from __future__ import annotations

from collections import Counter

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.enquiry.build import NOTE_BEGINS
from eager_lens.core.job.model import Camera, Schedule
from eager_lens.core.outgoing.formats.sheets import Bullets, Sheet, SheetColumn, SheetSet, SheetTable, span_words
from eager_lens.core.outgoing.handover.statements import caps_words, erased_words, kept, kept_words, purposes_words
from eager_lens.core.present.parts import parts_list
from eager_lens.core.recording.week import DAYS
from eager_lens.core.sizing.drives import LEVEL_WORDS
from eager_lens.core.units import count, figure

MOST_PLACES, MOST_ROWS, LEAST_PARTS = 12, 26, 6
"""More places or parts are summed up in a last row, so that all rows together stay on one page."""

LEFT_TO_OTHERS = (
    "Mains power, earthing, surge and lightning protection: by a licensed electrician.",
    "Signs and other legal duties of the operator are up to the customer, before recording starts.",
    "Bit rates, and therefore days, are estimated until the cameras run; they are measured at commissioning.",
)


def offer_sheet(assessment: Assessment, date: str) -> SheetSet:
    """The offer of a job, one page for a job of usual size."""
    job = assessment.job
    places, recording = _places(assessment), tuple(_recording(assessment))
    parts = _parts(assessment, max(LEAST_PARTS, MOST_ROWS - len(places) - len(recording)))
    blocks = (
        SheetTable(
            (
                SheetColumn("Place", 0.24),
                SheetColumn("Cameras", 0.12, "right"),
                SheetColumn("Purpose", 0.64),
            ),
            places,
            "View",
        ),
        SheetTable((SheetColumn("", 0.24), SheetColumn("", 0.76)), recording, "What is kept"),
        SheetTable(
            (SheetColumn("Part", 0.8), SheetColumn("Quantity", 0.2, "right")),
            parts,
            "What is delivered",
        ),
        Bullets((*_assumed(job.note), *LEFT_TO_OTHERS)),
    )
    subtitle = ", ".join(part for part in (job.customer, job.site) if part)
    contact = ", ".join(part for part in (job.prepared_by, job.contact) if part)
    intro = "What this installation does for you, and what the figures are based on." + (
        f" Offered by {contact}." if contact else ""
    )
    return SheetSet(job.name, subtitle, date, (Sheet("Offer", intro, blocks),))


def _places(assessment: Assessment) -> tuple[tuple[str, ...], ...]:
    by_place: dict[str, list[Camera]] = {}
    for camera in assessment.job.cameras:
        by_place.setdefault(camera.place or "Other", []).append(camera)
    rows = [(place, figure(len(own), 9), purposes_words(assessment, own)) for place, own in by_place.items()]
    if len(rows) > MOST_PLACES:
        rest = rows[MOST_PLACES - 1 :]
        cameras_there = sum(len(own) for own in list(by_place.values())[MOST_PLACES - 1 :])
        rows = [
            *rows[: MOST_PLACES - 1],
            (count(len(rest), "more place"), figure(cameras_there, 9), "as listed at handover"),
        ]
    return tuple(rows)


def _recording(assessment: Assessment) -> list[tuple[str, str]]:
    job, facts, said = assessment.job, assessment.facts, kept(assessment)
    rows = [("Pictures are kept", kept_words(said))]
    if longest := erased_words(said):
        rows.append(("At most", longest))
    if caps := caps_words(said):
        rows.append(("Bit rates", caps))
    used = Counter(camera.schedule for camera in said.recorded)
    for schedule in job.schedules:
        if used[schedule.id]:
            cameras = "" if len(used) == 1 else f"{count(used[schedule.id], 'camera')}: "
            rows.append(("Recorded", cameras + days_alike(schedule)))
    for exception in job.exceptions[:4]:
        rows.append(("Other hours", exception.name))
    for recorder in job.recorders[:4]:
        got = facts.recorder_figures[recorder.id]
        may_fail = got.drives_that_may_fail
        safe = (
            f"; it keeps nothing: {got.trouble}"
            if got.trouble
            else f"; {count(may_fail, 'drive')} may fail and must be replaced at once, because another failure before the "
            "rebuild ends loses recordings"
            if may_fail
            else "; a failed drive loses recordings"
        )
        drives = f"{recorder.drives} × {figure(recorder.drive_tb)} TB, {LEVEL_WORDS[recorder.raid_level]}"
        rows.append((recorder.name, drives + safe))
    return rows


def days_alike(schedule: Schedule) -> str:
    """The days that are alike, together: Mon to Fri, and what is recorded then."""
    groups: list[tuple[list[str], str]] = []
    for day in DAYS:
        words = ", ".join(span_words(span) for span in getattr(schedule.plan, day)) or "nothing"
        if groups and groups[-1][1] == words:
            groups[-1][0].append(day.capitalize())
        else:
            groups.append(([day.capitalize()], words))
    named = ((days[0] if len(days) == 1 else f"{days[0]} to {days[-1]}", words) for days, words in groups)
    return "; ".join(f"{days} {words}" for days, words in named)


def _parts(assessment: Assessment, most: int) -> tuple[tuple[str, ...], ...]:
    parts = [(part.what, part.quantity_words()) for part in parts_list(assessment.facts)]
    if len(parts) > most:
        parts = [
            *parts[: most - 1],
            (count(len(parts) - most + 1, "further line") + " of the parts list", ""),
        ]
    return tuple(parts)


def _assumed(note: str) -> tuple[str, ...]:
    """What was assumed, where the job was built from an enquiry."""
    _, begins, assumed = note.partition(NOTE_BEGINS)
    return (f"Assumed until the site has been seen: {assumed.strip()}",) if begins else ()
