"""A page for the customer: what he gets, in his words, and what that rests on. Prices are the installer's own."""

from __future__ import annotations

from collections import Counter

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.enquiry.build import NOTE_BEGINS
from eager_lens.core.job.model import Camera, Schedule
from eager_lens.core.outgoing.formats.sheets import Bullets, Sheet, SheetColumn, SheetSet, SheetTable, span_words
from eager_lens.core.outgoing.formats.texts import t
from eager_lens.core.outgoing.handover.statements import caps_words, erased_words, kept, kept_words, purposes_words
from eager_lens.core.present.parts import parts_list
from eager_lens.core.recording.week import DAYS
from eager_lens.core.sizing.drives import LEVEL_WORDS
from eager_lens.core.units import count, figure

MOST_PLACES, MOST_ROWS, LEAST_PARTS = 12, 26, 6
"""More places or parts are summed up in a last row, so that all rows together stay on one page."""

LEFT_TO_OTHERS = (
    t("offer.mains_power_earthing_surge_and_lightning"),
    t("offer.signs_and_what_the_law_asks"),
    t("offer.bit_rates_and_so_days_are"),
)


def offer_sheet(assessment: Assessment, date: str) -> SheetSet:
    """The offer of a job, one page for a job of usual size."""
    job = assessment.job
    places, recording = _places(assessment), tuple(_recording(assessment))
    parts = _parts(assessment, max(LEAST_PARTS, MOST_ROWS - len(places) - len(recording)))
    blocks = (
        SheetTable(
            (
                SheetColumn(t("offer.place"), 0.24),
                SheetColumn(t("offer.cameras"), 0.12, "right"),
                SheetColumn(t("offer.what_for"), 0.64),
            ),
            places,
            t("offer.what_is_seen"),
        ),
        SheetTable((SheetColumn("", 0.24), SheetColumn("", 0.76)), recording, t("offer.what_is_kept")),
        SheetTable(
            (SheetColumn(t("offer.part"), 0.8), SheetColumn(t("offer.quantity"), 0.2, "right")),
            parts,
            t("offer.what_is_delivered"),
        ),
        Bullets((*_assumed(job.note), *LEFT_TO_OTHERS)),
    )
    subtitle = ", ".join(part for part in (job.customer, job.site) if part)
    contact = ", ".join(part for part in (job.prepared_by, job.contact) if part)
    intro = t("offer.what_this_installation_does_for_you") + (t("offer.offered_by", contact=contact) if contact else "")
    return SheetSet(job.name, subtitle, date, (Sheet(t("offer.offer"), intro, blocks),))


def _places(assessment: Assessment) -> tuple[tuple[str, ...], ...]:
    by_place: dict[str, list[Camera]] = {}
    for camera in assessment.job.cameras:
        by_place.setdefault(camera.place or t("offer.other"), []).append(camera)
    rows = [(place, figure(len(own), 9), purposes_words(assessment, own)) for place, own in by_place.items()]
    if len(rows) > MOST_PLACES:
        rest = rows[MOST_PLACES - 1 :]
        cameras_there = sum(len(own) for own in list(by_place.values())[MOST_PLACES - 1 :])
        rows = [
            *rows[: MOST_PLACES - 1],
            (count(len(rest), "more place"), figure(cameras_there, 9), t("offer.as_listed_at_handover")),
        ]
    return tuple(rows)


def _recording(assessment: Assessment) -> list[tuple[str, str]]:
    job, facts, said = assessment.job, assessment.facts, kept(assessment)
    rows = [(t("offer.pictures_are_kept"), kept_words(said))]
    if longest := erased_words(said):
        rows.append((t("customer.and_no_longer_than"), longest))
    if caps := caps_words(said):
        rows.append((t("kept.bit_rates"), caps))
    used = Counter(camera.schedule for camera in said.recorded)
    for schedule in job.schedules:
        if used[schedule.id]:
            cameras = "" if len(used) == 1 else f"{count(used[schedule.id], 'camera')}: "
            rows.append((t("offer.recorded"), cameras + days_alike(schedule)))
    for exception in job.exceptions[:4]:
        rows.append((t("offer.otherwise"), exception.name))
    for recorder in job.recorders[:4]:
        got = facts.recorder_figures[recorder.id]
        may_fail = got.drives_that_may_fail
        safe = (
            t("offer.no_storage", why=got.trouble)
            if got.trouble
            else t("offer.may_fail_without_a_loss", drives=count(may_fail, "drive"))
            if may_fail
            else t("offer.a_failed_drive_loses_pictures")
        )
        drives = t(
            "offer.tb",
            drives=recorder.drives,
            drive_tb=figure(recorder.drive_tb),
            value=LEVEL_WORDS[recorder.raid_level],
        )
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
    named = (
        (days[0] if len(days) == 1 else t("offer.to", value=days[0], value_2=days[-1]), words) for days, words in groups
    )
    return "; ".join(f"{days} {words}" for days, words in named)


def _parts(assessment: Assessment, most: int) -> tuple[tuple[str, ...], ...]:
    parts = [(part.what, part.quantity_words()) for part in parts_list(assessment.facts)]
    if len(parts) > most:
        parts = [
            *parts[: most - 1],
            (count(len(parts) - most + 1, "further line") + t("offer.of_the_parts_list"), ""),
        ]
    return tuple(parts)


def _assumed(note: str) -> tuple[str, ...]:
    """What was assumed, where the job was built from an enquiry."""
    _, begins, assumed = note.partition(NOTE_BEGINS)
    return (t("offer.assumed_until_the_site_was_seen", strip=assumed.strip()),) if begins else ()
