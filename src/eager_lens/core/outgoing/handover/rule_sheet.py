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
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.tried_rule.tried import tried_rule_of
from eager_lens.core.units import count, figure
from eager_lens.core.values.motion_rule import MotionRule, arrows

WALK_TEST: tuple[str, ...] = (
    "Ladder secured, never alone; look for hidden cables and pipes before drilling.",
    "Walk every path at normal speed and slowly; note the time and whether a clip was recorded.",
    "Repeat after dark, and with the headlights of a car.",
    "Watch the empty picture for ten minutes: what triggers now will trigger all night in wind.",
    "Some cameras cannot combine a motion rule with other analytics. Leave sound off unless the law and the customer both "
    "allow it.",
    "Find one of the clips by its time on the recorder, and check that it starts before the person enters.",
)


def rule_words(rule: MotionRule) -> str:
    """A rule's settings as a sentence."""
    words = [
        f"sensitivity {figure(rule.sensitivity)} of 100",
        f"{figure(rule.smallest_m)} to {figure(rule.largest_m)} m tall",
        f"moves for {figure(rule.shortest_s)} s",
    ]
    if rule.kinds:
        words.append("only " + ", ".join(rule.kinds))
    if rule.line is not None:
        words.append(f"crosses the line {rule.line.direction}")
    out = sum(zone.leave_out for zone in rule.zones)
    if out:
        words.append(f"{count(out, 'exclusion zone')} (hatched)")
    if len(rule.zones) > out:
        words.append("only inside the zones")
    return "; ".join(words)


def _picture(camera: Camera, rule: MotionRule, name: str, caption: str) -> RulePicture:
    """A rule on the drawn place that it was tried in; on a blank one where it was tried on a clip, or not at all."""
    trial = tried_rule_of(camera)
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
                f"{figure(camera.events_per_h)} of {figure(camera.event_s)} s",
                camera.events_from or "assumed",
                f"{figure(camera.pre_recording_s)} and {figure(camera.post_recording_s)}",
                f"{figure(before)} and {figure(after)}",
                camera.kept_between_events,
                camera.kept_when_off,
            )
        )
    columns = (
        SheetColumn("Camera", 0.2),
        SheetColumn("Events an hour", 0.14),
        SheetColumn("From", 0.18),
        SheetColumn("Before and after, s", 0.13),
        SheetColumn("Alarm input, s", 0.12),
        SheetColumn("Between events", 0.12),
        SheetColumn("While off", 0.11),
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
        "The rules were tried on drawn scenes or clips and need a walk test; cameras without a picture keep their default rule."
        if rows or alike
        else "No camera records on motion."
    )
    return Sheet("Motion", intro, tuple(blocks))


def rule_card(assessment: Assessment, camera: Camera, date: str) -> SheetSet:
    """A camera's rule on one page, for the ladder."""
    rule = camera.motion_rule or MotionRule()
    facts = assessment.facts
    rows = [
        (
            "Before and after",
            f"{figure(camera.pre_recording_s)} s and {figure(camera.post_recording_s)} s",
        ),
        (
            "Place and mount",
            f"{camera.place or '—'}, {figure(camera.mount_height_m)} m high",
        ),
        ("Address", camera.address or "—"),
    ]
    for place in camera.registered:
        recorder = facts.recorders.get(place.recorder)
        if recorder is not None:
            rows.append(("Recorder, channel", f"{recorder.name}, {place.channel}"))
            if not assessment.camera(camera.id).motion_h_per_day:
                rows.append(("Its schedule", "has no motion hours; the rule records nothing"))
                continue
            links = chain_of(facts, camera, recorder)
            rows += [(sentence_case(link.name), ("" if link.holds else "BROKEN:  ") + link.words) for link in links]
    blank = (("", "", ""),) * 5
    blocks: tuple[Block, ...] = (
        _picture(camera, rule, name_of(assessment.job, rule) or "Motion rule", rule_words(rule)),
        SheetTable((SheetColumn("", 0.3), SheetColumn("", 0.7)), tuple(rows)),
        Bullets(WALK_TEST),
        SheetTable(
            (
                SheetColumn("Path", 0.5),
                SheetColumn("Time on the recorder", 0.25),
                SheetColumn("Caught", 0.25),
            ),
            blank,
            to_write_in=True,
        ),
    )
    intro = f"{assessment.job.name}. Local codes, the makers' instructions and licensed practice come first."
    return SheetSet(f"Motion rule, {camera.name}", assessment.job.site, date, (Sheet(camera.name, intro, blocks),))
