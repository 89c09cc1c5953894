"""Workings of bit rates, storage and days kept."""

from typing import Any

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.cap_cost import cap_cost
from eager_lens.core.assess.figures.devices import (
    CameraFigures,
    RecorderFigures,
    days_words,
    key_frame_wait_s,
    life_of,
    thin_share,
)
from eager_lens.core.assess.figures.motion_events import MotionEvents, motion_events_of, rule_class_of
from eager_lens.core.assess.figures.rates import Origin, assumed_rate_of, cap_of, minutes_read, scene_of
from eager_lens.core.clock.daylight import dark_swing
from eager_lens.core.job.measured import measured_elsewhere
from eager_lens.core.job.model import MEASURED_WHEN, Assumptions, Camera
from eager_lens.core.job.place import latitude_of
from eager_lens.core.present.workings.base import Working, WorkingLine, calculated, rates_origin
from eager_lens.core.recording.clips import EVENT_CLIPS, recorded_share
from eager_lens.core.recording.week import WEEK_HOURS
from eager_lens.core.reference.false_alarms import RULE_CLASS_WORDS
from eager_lens.core.reference.stream_fit import stream_fit
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.control import QUIET_STRETCH
from eager_lens.core.sizing.disk import DAYS_KEPT, DISK_SPACE
from eager_lens.core.sizing.drives import DRIVE_ARRAY, LEVEL_WORDS, TIB_PER_TB
from eager_lens.core.sizing.stream_rate import STREAM_RATE
from eager_lens.core.units import days_figure, figure


def days(recorder_id: str, assessment: Assessment) -> Working:
    """Days kept by a recorder."""
    recorder, got = assessment.facts.recorders[recorder_id], assessment.recorder(recorder_id)
    title = f"Days kept, {recorder.name}"
    if got.trouble:
        return Working(
            title,
            days_words(0.0, got.keeps),
            DRIVE_ARRAY.formula,
            (WorkingLine("drives", got.trouble, "plan"),),
            DRIVE_ARRAY.source,
        )
    _, lines = calculated(
        DRIVE_ARRAY,
        {
            "drives": (recorder.drives, "plan"),
            "drive_tb": (recorder.drive_tb, "plan"),
            "level": (recorder.raid_level, "plan"),
            "spares": (recorder.hot_spares, "plan"),
            "reserve_share": (recorder.reserve_share, "assumed"),
        },
    )
    lines = (
        *lines,
        WorkingLine("usable", f"{figure(got.usable_tb)} TB", "calculated"),
        WorkingLine("as systems show it", f"{figure(got.usable_tb * TIB_PER_TB)} TiB", "calculated"),
        WorkingLine(
            "drives that may fail", f"{got.drives_that_may_fail} ({LEVEL_WORDS[recorder.raid_level]})", "calculated"
        ),
        WorkingLine("stored", f"{figure(got.gb_per_day)} GB a day by {got.cameras} cameras", rates_origin(assessment)),
    )
    if recorder.erase_after_days is not None:
        lines = (*lines, WorkingLine("erases after", f"{figure(recorder.erase_after_days)} days", "plan"))
    # None means that nothing is recorded; the lines above still show what the drives give.
    if got.mean_days is None or got.promised_days is None:
        return Working(title, "nothing is recorded", DAYS_KEPT.formula, lines, DAYS_KEPT.source)
    lines = (*lines, *_three_days_lines(got), *promise_lines(assessment))
    source = f"{DAYS_KEPT.source}; {DRIVE_ARRAY.source}; {PROMISE_SOURCE}"
    formula = f"{DRIVE_ARRAY.formula}; expected = usable / stored; {PROMISE_FORMULA}"
    return Working(title, f"{figure(got.promised_days)} days, with 95 % probability", formula, lines, source)


def _three_days_lines(got: RecorderFigures) -> tuple[WorkingLine, ...]:
    """What stands beside the promise."""
    certain = "none: a camera has no maximum" if got.certain_days is None else f"{figure(got.certain_days)} days"
    return (
        WorkingLine("certain: every camera at its maximum, with the most activity assumed", certain, "calculated"),
        WorkingLine("expected: mean rates, mean motion", f"{figure(got.mean_days or 0.0)} days", "calculated"),
    )


PROMISE_FORMULA = (
    "promised = the longest window of days that fits on every evening of the year with 95 % probability, given the uncertainty "
    "of bit rates, motion events and daily activity"
)
PROMISE_SOURCE = "extremes of window sums, checked against simulated years"


def promise_lines(assessment: Assessment) -> tuple[WorkingLine, ...]:
    """What the promise assumes besides the rates."""
    activity, assumed = assessment.job.activity, assessment.job.assumed
    season = f"{activity.busy_days} days a year, {figure(activity.busy_factor)} times the events"
    latitude = latitude_of(assessment.job)
    dark = f"{figure(100 * assumed.dark_share)} % over the year"
    if latitude is not None:
        swing = dark_swing(latitude)
        # The swing comes as differences to the yearly mean; south of the equator its ends are in the other order.
        least, most = (100 * (assumed.dark_share + end) for end in (min(swing), max(swing)))
        dark += f", {figure(least)} to {figure(most)} % by date at {figure(latitude)}° latitude"
    return (
        WorkingLine("a day's events vary by", f"{figure(100 * activity.day_spread)} %", "assumed"),
        WorkingLine("correlation of a day with the next", figure(activity.day_memory), "assumed"),
        WorkingLine("busy season", season if activity.busy_days else "none", "assumed"),
        WorkingLine("dark", dark, "assumed"),
        WorkingLine(
            "share of a rate's spread common to all cameras",
            f"{figure(100 * stream_assumptions().shared_share)} %",
            "assumed",
        ),
    )


def _per_cent(share: float | None) -> str:
    return "–" if share is None else f"{figure(100 * share)} %"


def drives(recorder_id: str, assessment: Assessment) -> Working:
    """What recording does to a recorder's drives, and what a failed one leaves."""
    recorder, got = assessment.facts.recorders[recorder_id], assessment.recorder(recorder_id)
    title = f"Drives, {recorder.name}"
    life = life_of(recorder, got)
    if life is None:
        return Working(
            title, "none", DRIVE_ARRAY.formula, (WorkingLine("drives", got.trouble, "plan"),), DRIVE_ARRAY.source
        )
    # Days scale with usable space, so a share of the space is a share of the days.
    after = None if got.promised_days is None else got.promised_days * life.days_share_after
    days_after = "nothing is written" if after is None else f"{days_figure(after)} days of the promise"
    rebuild = "no redundancy, so no rebuild" if life.rebuild_h is None else f"{figure(life.rebuild_h)} h"
    lines = (
        WorkingLine("drives", f"{recorder.drives - recorder.hot_spares} of {figure(recorder.drive_tb)} TB", "plan"),
        WorkingLine("array", LEVEL_WORDS[recorder.raid_level], "plan"),
        WorkingLine("stored", f"{figure(got.gb_per_day)} GB a day", rates_origin(assessment)),
        WorkingLine("written to each drive", f"{figure(life.written_tb_per_year)} TB a year", "calculated"),
        WorkingLine("rated for", f"{figure(recorder.drive_rated_tb_per_year)} TB a year", "assumed"),
        WorkingLine("rebuilds at", f"{figure(recorder.rebuild_mb_per_s)} MB/s", "assumed"),
        WorkingLine("rebuild takes", rebuild, "calculated"),
        WorkingLine("drives that fail in a year", f"{figure(100 * recorder.drive_failures_per_year)} %", "assumed"),
        WorkingLine("chance that a second drive fails meanwhile", _per_cent(life.second_failure_share), "calculated"),
        WorkingLine("chance of an unreadable sector", _per_cent(life.unreadable_share), "calculated"),
        WorkingLine("kept after one drive failed", days_after, "calculated"),
    )
    formula = (
        "written to each = GB a day × 365 × redundancy factor / drives; rebuild = size / speed; second drive = 1 - (1 - "
        "failures a year × hours / 8760)^others; unreadable = 1 - exp(-bits read / 10^15)"
    )
    return Working(
        title, f"{figure(life.written_tb_per_year)} TB a year each", formula, lines, "failures at a constant rate"
    )


def incoming(recorder_id: str, assessment: Assessment) -> Working:
    """What a recorder takes in, by place."""
    recorder, got = assessment.facts.recorders[recorder_id], assessment.recorder(recorder_id)
    rates: dict[str, list[float]] = {}
    for camera in assessment.facts.cameras_on[recorder_id]:
        rates.setdefault(camera.place or "no place", []).append(assessment.camera(camera.id).load_mbps)
    origin = rates_origin(assessment)
    cameras = assessment.facts.cameras_on[recorder_id]
    substream_mbps = sum(
        camera.substream_mbps if recorder.fetches_substreams else assessment.camera(camera.id).substream_kept_mbps
        for camera in cameras
    )
    small = (WorkingLine("substreams", f"{figure(substream_mbps)} Mb/s", "plan"),) if substream_mbps else ()
    lines = [
        WorkingLine(place, f"{figure(sum(all_rates))} Mb/s, {len(all_rates)} cameras", origin)
        for place, all_rates in sorted(rates.items(), key=lambda item: -sum(item[1]))
    ]
    return Working(
        f"Incoming, {recorder.name}",
        f"{figure(got.incoming_mbps)} Mb/s",
        "incoming = sum of the main streams of all its cameras, each by day or by night, whichever is more, plus substreams if "
        "it fetches them",
        (
            *lines,
            *small,
            WorkingLine("in busy scenes, 1 case in 10", f"{figure(got.incoming_high_mbps)} Mb/s", origin),
            WorkingLine("the recorder's limit", f"{figure(recorder.incoming_limit_mbps)} Mb/s", "plan"),
        ),
        "means over the busier half of the day; a camera on two recorders sends and counts twice",
    )


def rate(camera_id: str, assessment: Assessment) -> Working:
    """A camera's bit rate."""
    camera = assessment.facts.find_camera(camera_id)
    got = assessment.camera(camera_id)
    if camera.measured_mbps is not None:
        return _read_rate(camera, got, camera.measured_mbps)
    if got.rate_origin == "plan":
        return _set_rate(camera, got)
    return _estimated_rate(camera, got, assessment.job.assumed)


def _read_rate(camera: Camera, got: CameraFigures, read_mbps: float) -> Working:
    """A rate that was read or entered, and how it was carried to day and night and to the settings of now."""
    origin: Origin = "measured" if camera.measured_when or camera.measured_from else "entered"
    lines = [WorkingLine(camera.measured_from or "read from the camera", f"{figure(read_mbps)} Mb/s", origin)]
    lines.append(WorkingLine("measured when", MEASURED_WHEN[camera.measured_when], origin))
    if camera.measured_when and camera.measured_low_mbps is None:
        minutes = minutes_read(camera)
        read = f"{figure(minutes)} min" if minutes < 120 else f"{figure(minutes / 60)} h"
        lines.append(WorkingLine("measured for", read, "assumed" if camera.measured_min is None else origin))
    elsewhere = measured_elsewhere(camera)
    if elsewhere is not None:
        then = (
            f"{elsewhere.width_px}×{elsewhere.height_px}, {figure(elsewhere.fps)} fps, {elsewhere.codec}, {elsewhere.quality}, "
            f"key frames every {figure(elsewhere.key_frame_s)} s"
        )
        lines.append(WorkingLine("measured at", then, "plan"))
    lines += [
        WorkingLine(
            "by day and by night", f"{figure(got.day_mbps)} and {figure(got.night_mbps)} Mb/s", got.rate_origin
        ),
        WorkingLine("in 8 cases of 10", f"{figure(got.low_mbps)} to {figure(got.high_mbps)} Mb/s", got.rate_origin),
        WorkingLine("estimated otherwise", f"{figure(got.asked_mbps)} Mb/s", "assumed"),
    ]
    formula = "the measured rate replaces the estimate"
    if elsewhere is not None or camera.measured_when in ("day", "night"):
        formula += "; the model's ratio converts it to the other half of the day and to other settings"
    return Working(_rate_title(camera), f"{figure(got.rate_mbps)} Mb/s", formula, tuple(lines), got.rate_origin)


def _set_rate(camera: Camera, got: CameraFigures) -> Working:
    value = f"{figure(got.rate_mbps)} Mb/s"
    lines = (
        WorkingLine("set in the camera: CBR", value, "plan"),
        WorkingLine("needed for this picture", f"{figure(got.asked_mbps)} Mb/s", "assumed"),
    )
    formula = "CBR sends the rate that is set; quality falls in busy scenes and rises in quiet ones"
    return Working(_rate_title(camera), value, formula, lines, "the camera's rate control")


def _rate_title(camera: Camera) -> str:
    return f"Bit rate, {camera.name}"


def _detail_lines(camera: Camera) -> tuple[WorkingLine, ...]:
    """What was measured of the scene, where it was."""
    if not camera.seen:
        return ()
    value = f"{figure(2**camera.seen.detail_log - 1)} levels per pixel, {figure(100 * camera.seen.flat_share)} % smooth"
    return (WorkingLine(f"detail, from {camera.seen.source}", value, "measured"),)


def _estimated_rate(camera: Camera, got: CameraFigures, own: Assumptions) -> Working:
    table, scene, fit = stream_assumptions(), scene_of(camera), stream_fit()
    parts, codec = assumed_rate_of(camera, own.as_assumed()), table.codecs[camera.codec]
    error, busy = fit.codecs[codec.model], recorded_share(camera.events_per_h, camera.event_s, 0, 0)
    set_to = table.mjpeg_scale if codec.model == "mjpeg" else table.crf
    lines = (
        WorkingLine("picture", f"{camera.width_px} × {camera.height_px} px", "plan"),
        WorkingLine("frame rate", f"{figure(camera.fps)} fps", "plan"),
        WorkingLine("key-frame interval", f"{figure(camera.key_frame_s)} s", "plan"),
        WorkingLine(
            f"quality: {camera.quality}",
            f"quantiser {figure(set_to[camera.quality])} ± {figure(table.quality_step)}",
            "assumed",
        ),
        WorkingLine("scene", scene.label, "assumed"),
        WorkingLine(
            "share of time with activity",
            f"{figure(100 * busy)} %; usual here {figure(100 * scene.busy_share)} %",
            "plan",
        ),
        *_detail_lines(camera),
        WorkingLine("noise that the camera does not filter", f"{figure(100 * own.noise_kept_share)} %", "assumed"),
        WorkingLine("camera encoders, compared with those measured", f"{figure(own.encoder_factor)} ×", "assumed"),
        WorkingLine("by day", f"{figure(parts.day_mbps)} Mb/s", "calculated"),
        WorkingLine("by night", f"{figure(parts.night_mbps)} Mb/s", "calculated"),
        WorkingLine("dark hours", f"{figure(100 * own.dark_share)} %", "assumed"),
        WorkingLine(f"saved by {codec.label}: {codec.why}", _saved_words(camera, own), "assumed"),
        WorkingLine("key frames", f"{figure(parts.key_part_mbps)} Mb/s", "calculated"),
        WorkingLine("other frames", f"{figure(parts.other_part_mbps)} Mb/s", "calculated"),
        WorkingLine("model's error on unseen scenes", f"{figure(error.median_abs_pct)} % in the middle", "measured"),
        WorkingLine(f"rate control: {camera.rate_control}", _cap_words(camera), "plan"),
        *_at_cap_lines(camera, got),
        WorkingLine("highest, held for minutes", f"{figure(got.peak_mbps)} Mb/s", "calculated"),
        WorkingLine("in 8 cases of 10", f"{figure(got.low_mbps)} to {figure(got.high_mbps)} Mb/s", "assumed"),
    )
    formula = (
        "rate = mean of day and night × (1 - saved) × camera encoder factor, over the range of all assumptions; "
        f"{STREAM_RATE.formula}"
    )
    return Working(_rate_title(camera), f"{figure(got.rate_mbps)} Mb/s", formula, lines, f"{fit.source} {table.source}")


def _saved_words(camera: Camera, own: Assumptions) -> str:
    """What the camera's codec is assumed to save, with its range where it has one."""
    if camera.codec != "h265":
        return "0 %"
    least, most = 100 * own.h265_saved_least_share, 100 * own.h265_saved_most_share
    return f"{figure(100 * own.h265_saved_share)} %, {figure(least)} to {figure(most)} %"


def _cap_words(camera: Camera) -> str:
    """What the rate control is set to."""
    cap_mbps = cap_of(camera)
    held = "no cap" if cap_mbps is None else f"at most {figure(cap_mbps)} Mb/s"
    if camera.rate_control == "smart codec":
        return f"{figure(QUIET_STRETCH)} times fewer key frames while nothing moves (assumed), {held}"
    return held


def _at_cap_lines(camera: Camera, got: CameraFigures) -> tuple[WorkingLine, ...]:
    """What the cap takes from the picture, and where it comes from."""
    if got.at_cap is None:
        return ()
    whose: Origin = "assumed" if camera.cap_assumed else "plan"
    return (
        WorkingLine("needed without it", f"{figure(got.asked_mbps)} Mb/s", "calculated"),
        WorkingLine(f"at {figure(got.cap_mbps or 0.0)} Mb/s", cap_cost(got.at_cap), whose),
    )


STORED_SOURCE = f"{WEEK_HOURS.source}; {EVENT_CLIPS.source}; {DISK_SPACE.source}"


def gb_per_day(camera_id: str, assessment: Assessment) -> Working:
    """What a camera stores a day."""
    camera, got = assessment.facts.find_camera(camera_id), assessment.camera(camera_id)
    schedule = assessment.facts.schedules.get(camera.schedule)
    given: dict[str, tuple[Any, Origin]] = {
        "rate_mbps": (got.rate_mbps, got.rate_origin),
        "recorded_h_per_day": (min(24.0, got.stored_h_per_day), "calculated"),
        "days": (1, "plan"),
    }
    lines = (
        WorkingLine("schedule", schedule.name if schedule else "none", "plan"),
        WorkingLine("continuous", _hours(got.always_h_per_day), "plan"),
        *_clip_lines(camera, got),
        *_either_lines(got),
        *_thin_lines(camera, got),
        *calculated(DISK_SPACE, given)[1],
    )
    formula = (
        "recorded hours = continuous + motion × share + alarm input × share, key frames only by their part of the rate; "
        f"{DISK_SPACE.formula}; {EVENT_CLIPS.formula}"
    )
    return Working(f"Stored, {camera.name}", f"{figure(got.gb_per_day)} GB a day", formula, lines, STORED_SOURCE)


def _clip_lines(camera: Camera, got: CameraFigures) -> tuple[WorkingLine, ...]:
    """What is recorded of the hours on motion."""
    if not got.motion_h_per_day or got.motion_share >= 1:
        return ()
    origin: Origin = "measured" if camera.events_from else "assumed"
    starts = motion_events_of(camera)
    given: dict[str, tuple[Any, Origin]] = {
        "events_per_h": (starts.per_h, origin),
        "event_s": (starts.seconds, origin),
        "pre_s": (camera.pre_recording_s, "plan"),
        "post_s": (camera.post_recording_s + key_frame_wait_s(camera), "plan"),
        "hours_per_day": (got.motion_h_per_day, "plan"),
    }
    clips, lines = calculated(EVENT_CLIPS, given)
    middle = f"{figure(100 * clips['recorded_share'])} %"
    return (
        *_false_lines(camera, starts),
        *lines,
        *(() if starts.times == 1 else (WorkingLine("share at the middle of the range", middle, "calculated"),)),
        WorkingLine("recorded share of motion hours", f"{figure(100 * got.motion_share)} %", "calculated"),
        WorkingLine("clips a day", figure(clips["clips_per_day"]), "calculated"),
    )


def _false_lines(camera: Camera, starts: MotionEvents) -> tuple[WorkingLine, ...]:
    """What starts besides events, and how far all of it is known."""
    if starts.times == 1:
        return ()
    rule = RULE_CLASS_WORDS[rule_class_of(camera)]
    return (
        WorkingLine("events an hour", figure(camera.events_per_h), "assumed"),
        WorkingLine(f"false alarms an hour, {rule}", figure(starts.false_per_h), "assumed"),
        WorkingLine("uncertainty, 8 cases in 10", f"×/÷ {figure(starts.times)}", "assumed"),
    )


def _either_lines(got: CameraFigures) -> tuple[WorkingLine, ...]:
    if not got.either_h_per_day:
        return ()
    return (
        WorkingLine("hours on motion or input", _hours(got.either_h_per_day), "plan"),
        WorkingLine("recorded share of an input's hours", f"{figure(100 * got.input_share)} %", "calculated"),
    )


def _thin_lines(camera: Camera, got: CameraFigures) -> tuple[WorkingLine, ...]:
    """What is kept at a lower rate between events and while off."""
    kept = (("between events", camera.kept_between_events), ("while off", camera.kept_when_off))
    return tuple(
        WorkingLine(
            f"kept {words}",
            f"{thin}, {figure(100 * thin_share(camera, thin, got.rate_mbps, got.key_share))} % of the full rate",
            "calculated",
        )
        for words, thin in kept
        if thin != "nothing"
    )


def _hours(h_per_day: float) -> str:
    return f"{figure(h_per_day)} h a day"
