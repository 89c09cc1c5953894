"""The customer's part: what records when, how long it is kept, how to find a clip, what to look at, whom to call."""

from __future__ import annotations

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.model import Camera
from eager_lens.core.outgoing.formats.sheets import Bullets, Sheet, SheetColumn, SheetTable
from eager_lens.core.outgoing.formats.texts import t
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
    t("customer.know_the_time_first_ask_when"),
    t("customer.on_the_recorder_select_the_camera"),
    t("customer.play_it_where_recording_is_on"),
    t("customer.mark_where_it_begins_and_where"),
    t("customer.export_it_to_a_stick_or"),
    t("customer.play_the_exported_clip_once_on"),
    t("customer.note_who_exported_what_when_for"),
)
IN_TIME = t("customer.export_at_once_what_the_police")

EVERY_MONTH = (
    t("customer.look_at_every_picture_by_day"),
    t("customer.compare_the_recorder_s_clock_with"),
    t("customer.find_a_clip_of_yesterday_and"),
    t("customer.see_that_the_recorder_calls_its"),
    t("customer.wipe_domes_and_lenses_with_a"),
    t("customer.see_that_the_signs_are_up"),
)

LAW = t("customer.who_films_people_answers_for_it")

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
    not_recorded = [t("customer.why_not", name=names[one], why=why) for one, why in said.nowhere.items()]
    if not_recorded:
        rows.append((t("customer.not_recorded"), "–", "; ".join(not_recorded)))
    how_long = [
        (t("customer.pictures_are_kept"), kept_words(said)),
        (t("customer.what_that_means"), t("customer.that_many_days_back_a_picture")),
    ]
    if longest := erased_words(said):
        how_long.append((t("customer.and_no_longer_than"), longest))
    if caps := caps_words(said):
        how_long.append((t("kept.bit_rates"), caps))
    columns = (
        SheetColumn(t("customer.schedule"), 0.2),
        SheetColumn(t("customer.when"), 0.4),
        SheetColumn(t("customer.cameras"), 0.4),
    )
    blocks = (
        SheetTable(columns, tuple(rows), t("customer.what_records_when")),
        SheetTable(_PAIRS, tuple(how_long), t("customer.how_long_it_is_kept")),
        SheetTable(_PAIRS, _whom(assessment), t("customer.whom_to_call")),
        _purposes(assessment),
    )
    return Sheet(
        t("customer.for_the_customer"),
        t("customer.at", cameras=count(len(job.cameras), "camera"), value=job.site or job.name),
        blocks,
    )


def _purposes(assessment: Assessment) -> SheetTable:
    by_place: dict[str, list[Camera]] = {}
    for camera in assessment.job.cameras:
        by_place.setdefault(camera.place or t("customer.other"), []).append(camera)
    rows = tuple((place, purposes_words(assessment, cameras)) for place, cameras in by_place.items())
    return SheetTable(
        (SheetColumn(t("customer.place"), 0.28), SheetColumn(t("customer.what_the_cameras_there_are_for"), 0.72)),
        rows,
        t("customer.what_is_seen_where"),
    )


def _whom(assessment: Assessment) -> tuple[tuple[str, str], ...]:
    job = assessment.job
    firm = ", ".join(part for part in (job.prepared_by, job.contact) if part)
    return (
        (t("customer.faults_and_questions"), firm or t("customer.to_be_filled_in")),
        (t("customer.an_incident"), t("customer.the_police_first_then_export_the")),
        (t("customer.mains_power_lightning_earthing"), t("customer.a_licensed_electrician")),
    )


def _clip(assessment: Assessment) -> Sheet:
    return Sheet(
        t("customer.finding_and_exporting_a_clip"),
        IN_TIME,
        (Bullets(FIND_A_CLIP, numbered=True),),
    )


def _monthly(assessment: Assessment) -> Sheet:
    dates = tuple(("", "", "") for _ in range(6))
    columns = (
        SheetColumn(t("customer.date"), 0.2),
        SheetColumn(t("customer.what_was_found"), 0.6),
        SheetColumn(t("customer.who"), 0.2),
    )
    return Sheet(
        t("customer.every_month"),
        t("customer.ten_minutes_that_show_a_fault"),
        (Bullets(EVERY_MONTH), SheetTable(columns, dates, t("customer.noted"), to_write_in=True)),
        follows=True,
    )


def _sign(assessment: Assessment) -> Sheet:
    job = assessment.job
    rows = (
        (t("customer.this_place_is_filmed"), job.site or "……"),
        (t("customer.by"), job.customer or "……"),
        (t("customer.what_for"), t("customer.for_instance_protection_of_persons_and")),
        (t("customer.kept_for"), sign_words(kept(assessment))),
        (t("customer.ask"), t("customer.telephone_for_what_is_kept_of", value=job.customer or "……")),
    )
    return Sheet(t("customer.text_for_the_signs"), LAW, (SheetTable(_PAIRS, rows),), follows=True)
