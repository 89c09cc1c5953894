"""Findings about recording on motion: pre-recording, post-recording, and what they add up to."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from eager_lens.core.assess.figures.blind import why_blind
from eager_lens.core.assess.figures.chain import broken_link, chain_of
from eager_lens.core.assess.figures.devices import CameraFigures, input_clip_s, key_frame_wait_s
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.finding import Finding, FindingKind, Severity, cameras_named, names_listed
from eager_lens.core.assess.incremental.kept import reads
from eager_lens.core.assess.incremental.traits import trait
from eager_lens.core.job.edits import Edit, set_each, set_fields
from eager_lens.core.job.model import Camera, Job, changed
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.recording.pre_buffer import pre_buffer_megabytes
from eager_lens.core.reference.false_alarms import false_alarms
from eager_lens.core.units import count, days_figure, figure
from eager_lens.core.validation import at_most
from eager_lens.core.values.kinds import Kind
from eager_lens.core.values.motion_rule import MotionRule

CHAIN_FIELDS = (
    *("name", "subnet", "schedule", "registered", "motion_rule_on", "event_tcp_port", "event_target"),
    *("pre_recording_s", "post_recording_s", "event_s"),
)
"""What the chain from motion to clip looks at in a camera."""


NOTHING_AFTER = FindingKind("no-post-recording", "motion", button="Set post-recording")


@trait
def has_nothing_after(camera: Camera, figures: CameraFigures) -> bool:
    """Whether its recording on motion ends with the motion."""
    return figures.motion_h_per_day > 0 and camera.post_recording_s == 0


USUAL_POST_S = 15.0
"""Post-recording that is offered where there is none."""


def nothing_after(facts: Facts) -> Iterator[Finding]:
    """Without seconds after an event, a visit falls into fragments."""
    bare = facts.having(has_nothing_after)
    if bare:
        ids = tuple(camera.id for camera in bare)
        yield Finding(
            NOTHING_AFTER,
            Severity.WARNING,
            f"{names_listed([camera.name for camera in bare])}: no post-recording",
            "When a person stands still for a moment, the recording is cut into fragments too short to recognise anyone.",
            f"{USUAL_POST_S:g} s of post-recording joins most visits into one clip.",
            ids,
            set_fields(ids, f"Post-recording {USUAL_POST_S:g} s", post_recording_s=USUAL_POST_S),
        )


RULE_BLIND = FindingKind("rule-blind", "motion")


@trait
def has_blind_rule(camera: Camera, _: CameraFigures) -> bool:
    """Whether nobody can meet its motion rule."""
    return camera.motion_rule is not None and camera.motion_rule_on and bool(why_blind(camera.motion_rule))


def blind_rules(facts: Facts) -> Iterator[Finding]:
    """Motion rules that nobody can meet: nothing is sensitive enough, or nothing is left to look at, or to cross."""
    for camera in facts.having(has_blind_rule):
        if camera.motion_rule is not None:
            words = why_blind(camera.motion_rule)
            yield Finding(
                RULE_BLIND,
                Severity.FAULT,
                f"{camera.name}: the motion rule can never trigger",
                f"{sentence_case(words)}. Nothing is recorded on motion, and no device reports it.",
                "Correct the rule, or try it on the Motion page, which shows what it misses.",
                (camera.id,),
                set_fields([camera.id], "Use the default rule", motion_rule=MotionRule()),
            )


RULE_UNUSED = FindingKind("rule-unused", "motion")


@trait
def has_unused_rule(camera: Camera, figures: CameraFigures) -> bool:
    """Whether its motion rule decides nothing, for all its hours are recorded anyway."""
    by_motion_h = figures.motion_h_per_day or figures.either_h_per_day
    return camera.motion_rule is not None and figures.always_h_per_day > 0 and not by_motion_h


def unused_rules(facts: Facts) -> Iterator[Finding]:
    """Rules of cameras whose schedule never records on motion."""
    unused = facts.having(has_unused_rule)
    if unused:
        yield Finding(
            RULE_UNUSED,
            Severity.NOTE,
            f"{count(len(unused), 'motion rule')} that no schedule uses",
            f"{names_listed([camera.name for camera in unused])}: these record continuously, so the rule can only mark events.",
            "Paint motion hours into the schedule, or leave it if the rule is meant to mark events.",
            tuple(camera.id for camera in unused),
        )


INPUT_NOTHING_AFTER = FindingKind("no-alarm-post-recording", "motion", button="Set post-recording")


@trait
def has_nothing_after_input(camera: Camera, figures: CameraFigures) -> bool:
    """Whether its recording on an alarm input ends with the alarm."""
    after_s = camera.post_recording_s if camera.input_post_recording_s is None else camera.input_post_recording_s
    return figures.input_h_per_day + figures.either_h_per_day > 0 and after_s == 0


def nothing_after_input(facts: Facts) -> Iterator[Finding]:
    """An alarm that is recorded for as long as its contact is closed alone."""
    bare = facts.having(has_nothing_after_input)
    if bare:
        ids = tuple(camera.id for camera in bare)
        yield Finding(
            INPUT_NOTHING_AFTER,
            Severity.WARNING,
            f"{names_listed([camera.name for camera in bare])}: no post-recording after alarms",
            "An alarm contact closes for about a second, and the clip ends before anything can be seen.",
            f"{USUAL_POST_S:g} s of post-recording show what happened.",
            ids,
            set_fields(ids, f"Post-recording {USUAL_POST_S:g} s after alarms", input_post_recording_s=USUAL_POST_S),
        )


NEARLY_ALWAYS = FindingKind("nearly-always", "motion")


NEARLY_ALWAYS_SHARE = 0.8
"""From this recorded share on, recording on motion is called continuous by another name."""


@trait
def records_nearly_always(_: Camera, figures: CameraFigures) -> bool:
    """Whether its recording on motion hardly ever stops."""
    return figures.motion_h_per_day > 0 and figures.motion_share >= NEARLY_ALWAYS_SHARE


def nearly_always(facts: Facts) -> Iterator[Finding]:
    """Motion recording that has become continuous by another name."""
    busy = facts.having(records_nearly_always)
    if busy:
        share = facts.camera_figures[busy[0].id].motion_share
        yield Finding(
            NEARLY_ALWAYS,
            Severity.WARNING,
            f"{names_listed([camera.name for camera in busy])}: motion records {figure(100 * share)} % of the time",
            "The clips run together, so this is in effect continuous recording and saves nothing.",
            "Shorten pre-recording and post-recording, narrow the motion rule, or record continuously.",
            tuple(camera.id for camera in busy),
        )


BEFORE_KEY_FRAME = FindingKind("pre-recording-short", "motion")


@trait
def has_short_before(camera: Camera, figures: CameraFigures) -> bool:
    """Whether its pre-recording may hold no key frame."""
    return figures.motion_h_per_day > 0 and camera.codec != "mjpeg" and camera.pre_recording_s < camera.key_frame_s


def before_is_shorter_than_key_frame(facts: Facts) -> Iterator[Finding]:
    """A clip can only begin at a key frame."""
    late = facts.having(has_short_before)
    if late:
        yield Finding(
            BEFORE_KEY_FRAME,
            Severity.WARNING,
            f"{count(len(late), 'camera')}: pre-recording shorter than key-frame interval",
            f"{names_listed([_intervals(camera) for camera in late], 2)}: a clip starts at a key frame, so the moments before "
            "the trigger may be missing.",
            "Set pre-recording to at least the key-frame interval.",
            tuple(camera.id for camera in late),
        )


def _intervals(camera: Camera) -> str:
    return f"{camera.name} ({figure(camera.pre_recording_s)} s, key-frame interval {figure(camera.key_frame_s)} s)"


CHAIN_BROKEN = FindingKind("chain-broken", "motion")


@reads("recorders", "links", "network", "schedules", *(f"cameras.{field}" for field in CHAIN_FIELDS))
def broken_chains(facts: Facts) -> Iterator[Finding]:
    """Cameras whose motion reaches no clip: the first broken link of each, told together by link.

    Where events go, and that there is a way, have findings of their own (Addresses, Wiring).
    """
    by_link: dict[tuple[str, str], list[Camera]] = {}
    for recorder in facts.job.recorders:
        for camera in facts.cameras_on[recorder.id]:
            if camera.motion_rule_on and recorder.takes_events and camera.event_tcp_port == recorder.event_tcp_port:
                continue  # nearly all of them; the rest of the chain is told elsewhere
            if facts.camera_figures[camera.id].motion_h_per_day:
                link = broken_link(chain_of(facts, camera, recorder))
                if link is not None and link.name in CHAIN_FIXES:
                    by_link.setdefault((link.name, link.words), []).append(camera)
    for (name, words), cameras in by_link.items():
        ids = tuple(dict.fromkeys(camera.id for camera in cameras))
        yield Finding(
            CHAIN_BROKEN,
            Severity.FAULT,
            f"{names_listed([camera.name for camera in cameras])}: motion is not recorded",
            f"The chain from motion to recording breaks at “{name}”: {words}. Nothing is kept in the motion hours, and no "
            "device reports it.",
            CHAIN_FIXES[name],
            ids,
            _chain_fix(facts, name, cameras),
        )


CHAIN_FIXES = {
    "the camera's rule": "Switch the motion rule on in the camera, and tick it here.",
    "the same port": "Use the same TCP port at both ends.",
    "the recorder accepts": "Let the recorder accept event messages, and tick it here.",
}


def _chain_fix(facts: Facts, name: str, cameras: list[Camera]) -> Edit:
    ids = [camera.id for camera in cameras]
    recorders = {place.recorder for camera in cameras for place in camera.registered}
    if name == "the camera's rule":
        return set_fields(ids, "Switch the rule on", motion_rule_on=True)
    if name == "the recorder accepts":
        closed = [one.id for one in facts.job.recorders if one.id in recorders and not one.takes_events]
        return set_fields(closed, "Accept events on the recorder", takes_events=True)
    ports = {one.id: one.event_tcp_port for one in facts.job.recorders}
    values = {camera.id: {"event_tcp_port": ports[camera.registered[0].recorder]} for camera in cameras}
    return set_each("Use one TCP port", values)


BEFORE_MEMORY = FindingKind("pre-recording-memory", "motion", button="Shorten to fit")


def pre_recording_memory(facts: Facts) -> Iterator[Finding]:
    """Seconds before an event that the recorder has no memory for."""
    for recorder in facts.job.recorders:
        if recorder.pre_recording_memory_mb is None:
            continue
        before_s = {camera.id: _before_s(camera, facts) for camera in facts.cameras_on[recorder.id]}
        waiting = [camera for camera in facts.cameras_on[recorder.id] if before_s[camera.id]]
        needed_mb = sum(pre_buffer_megabytes([facts.camera_figures[c.id].load_mbps], before_s[c.id]) for c in waiting)
        if at_most(needed_mb, recorder.pre_recording_memory_mb):
            continue
        share = recorder.pre_recording_memory_mb / needed_mb
        values = {camera.id: _shorter_before(camera, share) for camera in waiting}
        yield Finding(
            BEFORE_MEMORY,
            Severity.FAULT,
            f"{recorder.name}: pre-recording needs {figure(needed_mb)} of {figure(recorder.pre_recording_memory_mb)} MB",
            f"Together {count(len(waiting), 'camera')} need more memory than it has, so clips start later than planned.",
            "Shorten pre-recording, or lower the bit rate. A person takes 2 to 10 s to walk up.",
            (recorder.id, *(camera.id for camera in waiting)),
            set_each("Shorten pre-recording to fit", values),
        )


def _before_s(camera: Camera, facts: Facts) -> float:
    """How far back a camera's week may ask the recorder to go: to the key frame before that, which may lie an interval back."""
    got = facts.camera_figures[camera.id]
    on_motion = camera.pre_recording_s if got.motion_h_per_day else 0.0
    on_input = input_clip_s(camera)[0] if got.input_h_per_day or got.either_h_per_day else 0.0
    back = max(on_motion, on_input)
    return back + 2 * key_frame_wait_s(camera) if back else 0.0


def _shorter_before(camera: Camera, share: float) -> dict[str, float]:
    """A camera's seconds before, and those of its inputs where it has them, cut to a share."""
    values = {"pre_recording_s": camera.pre_recording_s}
    if camera.input_pre_recording_s is not None:
        values["input_pre_recording_s"] = camera.input_pre_recording_s
    to_key_frame_s = 2 * key_frame_wait_s(camera)
    left = {name: (seconds + to_key_frame_s) * share - to_key_frame_s for name, seconds in values.items()}
    return {name: max(0.0, math.floor(seconds * 10) / 10) for name, seconds in left.items()}


UNTUNED_MOTION = FindingKind("untuned-motion", "motion")


@trait
def has_false_alarms(_: Camera, figures: CameraFigures) -> bool:
    """Whether false alarms have a part in what it stores."""
    return figures.false_h_per_day > 0


def untuned(facts: Facts) -> Iterator[Finding]:
    """Pixel motion outdoors as it comes out of the box: what its false alarms do to the days."""
    often = facts.having(has_false_alarms)
    if not often:
        return
    rates = [false_alarms(camera.scene, "untuned").per_h for camera in often]
    figures = [facts.camera_figures[camera.id] for camera in often]
    share = sum(one.motion_share for one in figures) / len(figures)
    whole = sum(one.gb_per_day for one in figures)
    false = sum(one.gb_per_day * one.false_h_per_day / one.stored_h_per_day for one in figures)
    yield Finding(
        UNTUNED_MOTION,
        Severity.WARNING,
        f"{cameras_named([camera.name for camera in often])}: pixel motion outdoors, not tuned",
        f"Leaves, light and insects trigger it about {figure(min(rates))} to {figure(max(rates))} times an hour. "
        f"{100 * share:.0f} % of the time is recorded: {figure(whole)} GB a day, {figure(false)} of it false "
        f"alarms.{_days_lost(facts, often)}",
        "Set the rule to persons and vehicles only, or tune it on the Motion page in a drawn scene.",
        tuple(camera.id for camera in often),
        _tell_apart(often),
    )


def _days_lost(facts: Facts, often: Sequence[Camera]) -> str:
    """What the false alarms do to the days of each recorder, on the mean."""
    false: dict[str, float] = {}
    for camera in often:
        got = facts.camera_figures[camera.id]
        for place in camera.registered:
            gb = got.gb_per_day * got.false_h_per_day / got.stored_h_per_day
            false[place.recorder] = false.get(place.recorder, 0.0) + gb
    words = []
    for recorder_id, gb in false.items():
        kept = facts.recorder_figures.get(recorder_id)
        if kept is not None and kept.keeps == "days" and kept.mean_days and kept.gb_per_day > gb:
            then = kept.usable_tb * 1000 / (kept.gb_per_day - gb)
            now = kept.usable_tb * 1000 / kept.gb_per_day
            name = facts.name(recorder_id)
            words.append(f"{name} keeps {days_figure(now)} days as expected; without them {days_figure(then)}")
    return f" {'; '.join(words[:MOST_TOLD])}." if words else ""


MOST_TOLD = 3

PEOPLE_AND_VEHICLES: tuple[Kind, ...] = ("person", "cyclist", "vehicle")


def _tell_apart(often: Sequence[Camera]) -> Edit:
    """One edit that has cameras tell people and vehicles apart. What each gets is made when it is done: thousands may be named."""
    label, ids = "Persons and vehicles only", frozenset(one.id for one in often)

    def apply(job: Job) -> Job:
        wanted = (camera for camera in job.cameras if camera.id in ids)
        return set_each(label, {one.id: {"motion_rule": told_apart(one.motion_rule)} for one in wanted}).apply(job)

    return Edit(label, apply)


def told_apart(rule: MotionRule | None) -> MotionRule:
    """A rule for people and vehicles only, else as it is."""
    return changed(rule or MotionRule(), kinds=PEOPLE_AND_VEHICLES)


RULES = (
    untuned,
    blind_rules,
    unused_rules,
    nothing_after_input,
    broken_chains,
    pre_recording_memory,
    nothing_after,
    nearly_always,
    before_is_shorter_than_key_frame,
)
