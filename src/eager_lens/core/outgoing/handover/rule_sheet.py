"""Motion rules on paper: the handover's sheet of them, and the card for the ladder."""

from __future__ import annotations

from functools import lru_cache

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.chain import chain_of
from eager_lens.core.assess.figures.devices import input_clip_s
from eager_lens.core.job.model import Camera
from eager_lens.core.job.saved_rules import name_of
from eager_lens.core.motion.view import View
from eager_lens.core.outgoing.formats.sheets import (
    Block,
    Bullets,
    RulePicture,
    Sheet,
    SheetColumn,
    SheetSet,
    SheetTable,
)
from eager_lens.core.outgoing.formats.texts import t
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.trial.tried import trial_of
from eager_lens.core.units import count, figure
from eager_lens.core.values.motion_rule import MotionRule, arrows

WALK_TEST: tuple[str, ...] = (
    t("rule_sheet.ladder_secured_nobody_on_it_alone"),
    t("rule_sheet.walk_each_way_that_people_take"),
    t("rule_sheet.again_after_dark_and_with_the"),
    t("rule_sheet.watch_the_picture_for_ten_minutes"),
    t("rule_sheet.on_some_cameras_extra_picture_data"),
    t("rule_sheet.find_one_of_the_clips_by"),
)


def rule_words(rule: MotionRule) -> str:
    """A rule's settings as a sentence."""
    words = [
        t("rule_sheet.sensitivity_of_100", sensitivity=figure(rule.sensitivity)),
        t("rule_sheet.to_m_tall", smallest_m=figure(rule.smallest_m), largest_m=figure(rule.largest_m)),
        t("rule_sheet.moves_for_s", shortest_s=figure(rule.shortest_s)),
    ]
    if rule.kinds:
        words.append(t("rule_sheet.only") + ", ".join(rule.kinds))
    if rule.line is not None:
        words.append(t("rule_sheet.crosses_the_line", direction=rule.line.direction))
    out = sum(zone.leave_out for zone in rule.zones)
    if out:
        words.append(t("rule_sheet.hatched", exclusions=count(out, "exclusion zone")))
    if len(rule.zones) > out:
        words.append(t("rule_sheet.looks_inside_the_frames_only"))
    return "; ".join(words)


def _picture(camera: Camera, rule: MotionRule, name: str, caption: str) -> RulePicture:
    """A rule on the drawn place that it was tried in; on a blank one where it was tried on a clip, or not at all."""
    trial = trial_of(camera)
    drawn = bool(camera.tried_in) and trial.clip is None
    grey, wide, high = place_picture(trial.view) if drawn else (b"", 160, 90)
    zones = tuple((zone.corners, zone.leave_out) for zone in rule.zones)
    line = None if rule.line is None else (rule.line.begins, rule.line.ends)
    return RulePicture(
        name, caption, grey, wide, high, zones, line, arrows(rule.line, high / wide) if rule.line is not None else ()
    )


@lru_cache(maxsize=16)
def place_picture(view: View) -> tuple[bytes, int, int]:
    """A drawn place at noon with nobody there: rows of grey levels, width and height."""
    from eager_lens.core.motion.scene import NOON_S, DrawnScene
    from eager_lens.core.values.weather import Weather

    calm = Weather(wind_m_per_s=0, cloud=0, noise_day=0, noise_night=0)
    picture = DrawnScene(view._replace(passages=(), weather=calm), 1).picture(NOON_S)
    return picture.clip(0, 255).astype("uint8").tobytes(), picture.shape[1], picture.shape[0]


def motion_sheet(assessment: Assessment) -> Sheet:
    """Seconds before and after, what is kept besides, and each rule with the cameras that have it."""
    job = assessment.job
    rows = []
    for camera in job.cameras:
        got = assessment.camera(camera.id)
        if not (got.motion_h_per_day or got.input_h_per_day):
            continue
        before, after = input_clip_s(camera)
        rows.append(
            (
                camera.name,
                t("rule_sheet.of_s", events_per_h=figure(camera.events_per_h), event_s=figure(camera.event_s)),
                camera.events_from or "assumed",
                t(
                    "rule_sheet.and",
                    pre_recording_s=figure(camera.pre_recording_s),
                    post_recording_s=figure(camera.post_recording_s),
                ),
                t("rule_sheet.and_2", before=figure(before), after=figure(after)),
                camera.kept_between_events,
                camera.kept_when_off,
            )
        )
    columns = (
        SheetColumn(t("rule_sheet.camera"), 0.2),
        SheetColumn(t("rule_sheet.events_an_hour"), 0.14),
        SheetColumn(t("rule_sheet.from"), 0.18),
        SheetColumn(t("rule_sheet.before_and_after_s"), 0.13),
        SheetColumn(t("rule_sheet.of_an_input_s"), 0.12),
        SheetColumn(t("rule_sheet.between_events"), 0.12),
        SheetColumn(t("rule_sheet.while_off"), 0.11),
    )
    alike: dict[tuple[MotionRule, str], list[Camera]] = {}
    for camera in job.cameras:
        if camera.motion_rule is not None:
            alike.setdefault((camera.motion_rule, camera.tried_in), []).append(camera)
    blocks: list[Block] = [SheetTable(columns, tuple(rows))] if rows else []
    for (rule, _), cameras in alike.items():
        saved = name_of(job, rule)
        names = ", ".join(camera.name for camera in cameras)
        blocks.append(_picture(cameras[0], rule, f"{saved}: {names}" if saved else names, rule_words(rule)))
    intro = (
        t("rule_sheet.rules_were_tried_on_drawn_scenes")
        if rows or alike
        else t("rule_sheet.no_camera_records_on_motion")
    )
    return Sheet(t("rule_sheet.motion"), intro, tuple(blocks))


def rule_card(assessment: Assessment, camera: Camera, date: str) -> SheetSet:
    """A camera's rule on one page, for the ladder."""
    rule = camera.motion_rule or MotionRule()
    facts = assessment.facts
    rows = [
        (
            t("rule_sheet.before_and_after"),
            t(
                "rule_sheet.s_and_s",
                pre_recording_s=figure(camera.pre_recording_s),
                post_recording_s=figure(camera.post_recording_s),
            ),
        ),
        (
            t("rule_sheet.place_and_mount"),
            t("rule_sheet.m_high", value=camera.place or "—", mount_height_m=figure(camera.mount_height_m)),
        ),
        (t("rule_sheet.address"), camera.address or "—"),
    ]
    for place in camera.registered:
        recorder = facts.recorders.get(place.recorder)
        if recorder is not None:
            rows.append((t("rule_sheet.recorder_channel"), f"{recorder.name}, {place.channel}"))
            if not assessment.camera(camera.id).motion_h_per_day:
                rows.append((t("rule_sheet.its_schedule"), t("rule_sheet.has_no_motion_hours_the_rule")))
                continue
            links = chain_of(facts, camera, recorder)
            rows += [
                (sentence_case(link.name), ("" if link.holds else t("rule_sheet.broken")) + link.words)
                for link in links
            ]
    blank = (("", "", ""),) * 5
    blocks: tuple[Block, ...] = (
        _picture(camera, rule, name_of(assessment.job, rule) or t("rule_sheet.the_rule"), rule_words(rule)),
        SheetTable((SheetColumn("", 0.3), SheetColumn("", 0.7)), tuple(rows)),
        Bullets(WALK_TEST),
        SheetTable(
            (
                SheetColumn(t("rule_sheet.walked_where"), 0.5),
                SheetColumn(t("rule_sheet.time_on_the_recorder"), 0.25),
                SheetColumn(t("rule_sheet.caught"), 0.25),
            ),
            blank,
            to_write_in=True,
        ),
    )
    intro = t("rule_sheet.local_codes_the_makers_instructions_and", name=assessment.job.name)
    return SheetSet(
        t("rule_sheet.motion_rule", name=camera.name), assessment.job.site, date, (Sheet(camera.name, intro, blocks),)
    )
