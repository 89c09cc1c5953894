"""Figures of one camera and of one recorder."""

import math
from collections.abc import Callable, Iterable
from typing import Literal, NamedTuple

from eager_lens.core.assess.figures.motion_events import (
    MotionEvents,
    covered_in_case,
    covered_share,
    is_often_false,
    motion_events_of,
    motion_events_with,
)
from eager_lens.core.assess.figures.rates import Origin, SpreadUnderCap, cap_of, rate_of
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.capping import lacks_cap, usual_cap_fields, usual_cap_of
from eager_lens.core.job.measured import with_settings
from eager_lens.core.job.model import Camera, Recorder, Schedule, Thin
from eager_lens.core.optics.placing import PX_PER_M, Placing, placing
from eager_lens.core.power.poe import POE_CLASSES, cable_temperature_c, poe_run
from eager_lens.core.recording.clips import recorded_share
from eager_lens.core.recording.week import Mode, WeekPlan, schedule_hours
from eager_lens.core.reference.streams import stream_assumptions
from eager_lens.core.sizing.capped import AtCap
from eager_lens.core.sizing.disk import days_kept, disk_space_gb
from eager_lens.core.sizing.drive_life import DriveLife, drive_life
from eager_lens.core.sizing.drives import drive_array
from eager_lens.core.sizing.rate import Assumed, StreamRate
from eager_lens.core.sizing.rate_spread import NOT_BY_MOTION, Z_OF_RANGE, ByMotion, rounded
from eager_lens.core.units import days_figure, figure
from eager_lens.core.validation import at_least

Keeps = Literal["days", "no storage", "nothing recorded"]
"""What a recorder keeps: so many days; none, since its drives give no space; or nothing is recorded, so that no days can be
told. No answer is not a good answer: whoever shows days shows this too (``days_words``)."""

NO_HOURS: dict[Mode, float] = schedule_hours(WeekPlan())


class CameraFigures(NamedTuple):
    """What one camera sends and stores. Rates in Mb/s (10^6 bit/s) of its main stream while it sends; GB are 10^9
    bytes; hours are means over the week; the low and high figures span quiet and busy scenes of the same kind.

    Motion hours take in those on either motion or input (``either_h_per_day``). ``recorded_h_per_day`` are recorded in
    full; ``stored_h_per_day`` are hours in full that store as much as everything that is kept, thin recording too;
    ``stored_low_h_per_day`` and the high ones are those of 8 in 10 cases of how much goes on (``by_motion``);
    ``left_out_h_per_day`` are those that motion hours store less than recording all of them. ``substream_kept_mbps`` is
    the substream where thin recording keeps it. ``day_mbps`` and ``night_mbps`` are the means by day and by night, the
    larger of which is what links, airtime and recorders must take (``load_mbps``). ``false_h_per_day`` are stored for false
    alarms that a tuned rule would not give. ``cap_mbps`` is the maximum in force,
    ``usual_cap_mbps`` that which is usual where there is none, and ``capped_mbps`` the mean rate under it;
    ``under_cap`` how the range of an estimate comes about under it; ``at_cap`` is what it takes from the picture by the model
    (None of a rate that was read: that shows what it asks for).
    """

    rate_mbps: float
    low_mbps: float
    high_mbps: float
    rate_origin: Origin
    always_h_per_day: float
    motion_h_per_day: float
    input_h_per_day: float
    either_h_per_day: float
    motion_share: float
    input_share: float
    recorded_h_per_day: float
    stored_h_per_day: float
    stored_low_h_per_day: float
    stored_high_h_per_day: float
    by_motion: ByMotion
    left_out_h_per_day: float
    gb_per_day: float
    gb_low_per_day: float
    gb_high_per_day: float
    peak_mbps: float
    asked_mbps: float
    key_share: float
    substream_kept_mbps: float
    day_mbps: float
    night_mbps: float
    load_mbps: float
    false_h_per_day: float
    cap_mbps: float | None
    usual_cap_mbps: float | None
    capped_mbps: float
    under_cap: SpreadUnderCap | None
    at_cap: AtCap | None


Trait = Callable[[Camera, CameraFigures], bool]
"""Something that can be said of one camera by itself (see ``incremental/traits.py``)."""


class RecorderFigures(NamedTuple):
    """What one recorder takes in and keeps.

    ``promised_days`` is the figure that is judged: kept on the worst day of the year, 19 times in 20. ``certain_days`` are
    kept if every camera sends its maximum bit rate whenever it records, and as much goes on as is assumed at most; None where one
    has no maximum. ``mean_days``, the expected ones, are what the schedules as painted keep by mean rates.
    Both are 0 where there is no space for what is recorded (``keeps`` is
    "no storage"), and None only where nothing is recorded ("nothing recorded").

    Low and high figures span 8 of 10 cases, by what is not known of the rates alone (``Joint``).

    ``trouble`` says why the drives give no space; ``usable_tb`` is then 0.
    """

    usable_tb: float
    drives_that_may_fail: int
    trouble: str
    cameras: int
    incoming_mbps: float
    incoming_high_mbps: float
    gb_per_day: float
    gb_low_per_day: float
    gb_high_per_day: float
    mean_days: float | None
    promised_days: float | None
    keeps: Keeps
    certain_days: float | None


def promise_words(name: str, promised_days: float, asked_days: float) -> str:
    """What a recorder can promise of what was asked, as it is said everywhere."""
    return f"{name} can promise {days_figure(promised_days)} of {figure(asked_days)} days"


def days_words(days: float | None, keeps: Keeps) -> str:
    """Days kept in words, whatever the recorder keeps."""
    if keeps == "no storage":
        return "0, no storage"
    return "nothing recorded" if days is None else days_figure(days)


def three_days(got: RecorderFigures) -> str:
    """What is certain and what is expected beside the promise, in a sentence."""
    if got.mean_days is None:
        return "Nothing is recorded yet."
    expected = f"{days_figure(got.mean_days)} days are expected"
    if got.certain_days is None:
        return f"{expected}. None is certain while a camera has no maximum bit rate."
    return f"{days_figure(got.certain_days)} days are certain, even with every camera at its maximum; {expected}."


def no_days_words(name: str, got: RecorderFigures) -> str:
    """Why no days can be told of a recorder, and what to do."""
    if got.keeps == "no storage":
        return f"{name} keeps 0 days: {got.trouble}."
    return f"Nothing is recorded on {name} yet. Register cameras on a recorder with drives, and give them a schedule."


class RunFigures(NamedTuple):
    """What arrives at the end of a camera's powered run. ``device_v`` is None where the run cannot carry it at all."""

    device_v: float | None
    least_v: float
    loop_ohm: float
    within_class: bool
    voltage_ok: bool


def run_figures(camera: Camera, supply_v: float | None = None) -> RunFigures | None:
    """Figures of a camera's run, or None where it is not powered by its cable or the length is not known.

    ``supply_v`` None takes the supply at the least that its class guarantees, which is what a plan may count on.
    ``Facts.run_of`` knows what a device passes on that is fed over its own cable.
    """
    if camera.poe_class is None or camera.cable_m is None:
        return None
    temperature_c = cable_temperature_c(camera.outdoor)
    run = poe_run(
        camera.poe_class, camera.power_w, camera.cable_m, camera.awg, camera.cable_material, temperature_c, supply_v
    )
    device_v = run.settled.device_v if run.settled else None
    least_v = POE_CLASSES[camera.poe_class].device_least_v
    return RunFigures(device_v, least_v, run.loop_ohm, run.within_class, run.voltage_ok)


def placing_of(camera: Camera) -> Placing | None:
    """What a camera sees of its target, or None while no target is given."""
    if camera.target_m is None:
        return None
    return placing(
        camera.sensor_width_mm,
        camera.focal_mm,
        camera.width_px,
        camera.height_px,
        camera.mount_height_m,
        camera.target_m,
    )


def misses_purpose(camera: Camera) -> bool:
    """Whether there are too few pixels on the target for what the camera is wanted for."""
    seen = placing_of(camera)
    return bool(camera.purpose and seen and not at_least(seen.px_per_m, PX_PER_M[camera.purpose]))


class Kept(NamedTuple):
    """What a camera's week keeps, as ``CameraFigures`` tells it."""

    motion_share: float
    input_share: float
    recorded_h_per_day: float
    stored_h_per_day: float
    stored_low_h_per_day: float
    stored_high_h_per_day: float
    by_motion: ByMotion
    left_out_h_per_day: float


def thin_share(camera: Camera, thin: Thin, rate_mbps: float, key_share: float) -> float:
    """What thin recording stores over what the full stream would; ``key_share``: key frames' part of the stream."""
    if thin == "nothing" or rate_mbps <= 0:
        return 0.0
    return key_share if thin == "key frames" else min(1.0, camera.substream_mbps / rate_mbps)


def input_clip_s(camera: Camera) -> tuple[float, float]:
    """Seconds before and after an input: its own, or those of motion."""
    pre_s = camera.pre_recording_s if camera.input_pre_recording_s is None else camera.input_pre_recording_s
    post_s = camera.post_recording_s if camera.input_post_recording_s is None else camera.input_post_recording_s
    return pre_s, post_s


def key_frame_wait_s(camera: Camera) -> float:
    """Seconds by which a clip is longer, on the mean, since it can begin at a key frame only: half the interval."""
    return 0.0 if camera.codec == "mjpeg" else camera.key_frame_s / 2


def around_s(camera: Camera) -> float:
    """Seconds that are recorded before and after a motion event."""
    return camera.pre_recording_s + camera.post_recording_s + key_frame_wait_s(camera)


def motion_share(camera: Camera) -> float:
    """The share of motion hours that is recorded, on the mean over what is not known of events and false alarms."""
    starts = motion_events_of(camera)
    return covered_share(starts.per_h, starts.seconds + around_s(camera), starts.times)


def alarm_clip_s(camera: Camera) -> float:
    """Seconds that are recorded around an alarm at the input that stands alone."""
    return camera.event_s + sum(input_clip_s(camera)) + key_frame_wait_s(camera)


def kept(
    camera: Camera, hours: dict[Mode, float], rate_mbps: float, key_share: float, starts: MotionEvents | None = None
) -> Kept:
    """What a week with these hours of each mode keeps.

    Where motion and input hours overlap the union is kept: what neither records is left out, and both are independent. Shares
    of motion are means over what is not known of events and false alarms; low and high hours are 8 of 10 cases of them.
    """
    starts = starts or motion_events_of(camera)
    length_s = starts.seconds + around_s(camera)
    on_motion = covered_share(starts.per_h, length_s, starts.times)
    on_input = recorded_share(camera.inputs_per_h, alarm_clip_s(camera), 0, 0)
    on_either = 1 - (1 - on_motion) * (1 - on_input)
    full = hours["motion"] * on_motion + hours["alarm input"] * on_input + hours["motion or alarm"] * on_either
    quiet_motion = hours["motion"] * (1 - on_motion) + hours["motion or alarm"] * (1 - on_either)
    quiet = quiet_motion + hours["alarm input"] * (1 - on_input)
    between = thin_share(camera, camera.kept_between_events, rate_mbps, key_share)
    idle = thin_share(camera, camera.kept_when_off, rate_mbps, key_share)
    full += hours["continuous"]
    stored = full + quiet * between + hours["off"] * idle
    # More or less motion changes what is stored in motion hours alone, by what is not kept between events.
    gained = (hours["motion"] + hours["motion or alarm"] * (1 - on_input)) * (1 - between)
    ends = (covered_in_case(starts.per_h, length_s, times) for times in (1 / starts.times, starts.times))
    low, high = ((stored + gained * (end - on_motion)) / 7 for end in ends)
    by_motion = NOT_BY_MOTION
    if gained > 0 and stored > 0 and starts.times > 1:
        steady = (stored - gained * on_motion) / stored
        rho, deviation = starts.per_h * length_s / 3600, math.log(starts.times) / Z_OF_RANGE
        by_motion = ByMotion(*(rounded(each) for each in (max(0.0, steady), gained / stored, rho, deviation)))
    left_out = quiet_motion * (1 - between) / 7
    return Kept(on_motion, on_input, full / 7, stored / 7, low, high, by_motion, left_out)


def camera_figures(camera: Camera, hours: dict[Mode, float], assumed: Assumed | None = None) -> CameraFigures:
    """Figures of a camera that records by a week with these hours of each mode."""
    (rate, low, high, peak, day, night), origin, asked, under_cap, at_cap = rate_of(camera, assumed)
    key_share = key_share_of(asked)
    got = kept(camera, hours, rate, key_share)
    false_h = 0.0
    if got.motion_share and is_often_false(camera) and hours["motion"] + hours["motion or alarm"]:
        tuned = kept(camera, hours, rate, key_share, motion_events_with(camera, "tuned"))
        false_h = got.stored_h_per_day - tuned.stored_h_per_day
    is_free = lacks_cap(camera)
    keeps_small = "substream" in (camera.kept_between_events, camera.kept_when_off)
    always, motion, on_input, either = (
        hours[mode] / 7 for mode in ("continuous", "motion", "alarm input", "motion or alarm")
    )
    gb = disk_space_gb(rate, got.stored_h_per_day, 1)
    return CameraFigures(
        rate_mbps=rate,
        low_mbps=low,
        high_mbps=high,
        rate_origin=origin,
        always_h_per_day=always,
        motion_h_per_day=motion + either,
        input_h_per_day=on_input,
        either_h_per_day=either,
        **got._asdict(),
        gb_per_day=gb,
        gb_low_per_day=gb * _joined(rate, low, got.stored_h_per_day, got.stored_low_h_per_day, -1),
        gb_high_per_day=gb * _joined(rate, high, got.stored_h_per_day, got.stored_high_h_per_day, 1),
        peak_mbps=peak,
        asked_mbps=asked.rate_mbps,
        key_share=key_share,
        substream_kept_mbps=camera.substream_mbps if keeps_small else 0.0,
        day_mbps=day,
        night_mbps=night,
        load_mbps=max(day, night),
        false_h_per_day=false_h,
        cap_mbps=cap_of(camera),
        usual_cap_mbps=usual_cap_of(camera) if is_free else None,
        capped_mbps=_capped_mbps(camera, rate, assumed) if is_free else rate,
        under_cap=under_cap,
        at_cap=at_cap,
    )


def _capped_mbps(camera: Camera, rate_mbps: float, assumed: Assumed | None) -> float:
    """What a camera without a maximum would send under the usual one."""
    fields = usual_cap_fields(camera)
    # Checking all fields of ten thousand cameras takes seconds; only a rate that was read needs to know where it was.
    held = camera.model_copy(update=fields) if camera.measured_mbps is None else with_settings(camera, fields)
    return min(rate_mbps, rate_of(held, assumed).sent.mean_mbps)


def _joined(rate_mbps: float, end_mbps: float, stored_h: float, end_h: float, sign: int) -> float:
    """How many times the mean is stored at an end of 8 in 10 cases, by rate and by motion, which know nothing of each other."""
    if stored_h <= 0 or end_h <= 0 or end_mbps <= 0:
        return 1.0
    return math.exp(sign * math.hypot(math.log(end_mbps / rate_mbps), math.log(end_h / stored_h)))


def key_share_of(asked: StreamRate) -> float:
    """Key frames' part of a stream, by the model."""
    whole = asked.key_part_mbps + asked.other_part_mbps
    return asked.key_part_mbps / whole if whole > 0 else 0.0


def hours_by_schedule(schedules: Iterable[Schedule]) -> dict[str, dict[Mode, float]]:
    """Hours of each mode by week id."""
    return {schedule.id: schedule_hours(schedule.plan) for schedule in schedules}


class Joint:
    """The sum of streams and its range.

    What a camera's picture holds is its own: one scene busier than assumed says nothing of the next. What is assumed of
    encoders holds for all cameras together. So the deviations are joined in squares, but for the share of their
    variance that is common (``shared_share``). A measured stream's deviation is its own, as is that of a rate that is set.
    """

    def __init__(self) -> None:
        self.cameras = 0
        self.mbps = self.gb_per_day = 0.0  # the rate at which it loads what carries it: the worse of day and night
        self._common_mbps_up = self._common_gb_up = self._common_gb_down = 0.0
        self._squares_mbps_up = self._squares_gb_up = self._squares_gb_down = 0.0

    def add(self, stream: CameraFigures) -> None:
        """Add a stream. Written out, since it runs once a camera at each edit."""
        self.cameras += 1
        self.mbps += stream.load_mbps
        self.gb_per_day += stream.gb_per_day
        mbps_up = stream.load_mbps * (stream.high_mbps / stream.rate_mbps - 1)
        gb_up = stream.gb_high_per_day - stream.gb_per_day
        gb_down = stream.gb_per_day - stream.gb_low_per_day
        own_share = 1.0
        if stream.rate_origin == "assumed":
            own_share = _OWN_SHARE
            self._common_mbps_up += mbps_up
            self._common_gb_up += gb_up
            self._common_gb_down += gb_down
        self._squares_mbps_up += own_share * mbps_up * mbps_up
        self._squares_gb_up += own_share * gb_up * gb_up
        self._squares_gb_down += own_share * gb_down * gb_down

    def copy(self) -> "Joint":
        """Another one with the same streams."""
        other = Joint()
        other.__dict__.update(self.__dict__)
        return other

    def mbps_high(self) -> float:
        """The upper end of the rate in Mb/s."""
        return self.mbps + _together(self._common_mbps_up, self._squares_mbps_up)

    def gb_range(self) -> tuple[float, float]:
        """Both ends of what is stored, in GB a day."""
        low = self.gb_per_day - _together(self._common_gb_down, self._squares_gb_down)
        return max(0.0, low), self.gb_per_day + _together(self._common_gb_up, self._squares_gb_up)


_OWN_SHARE = 1 - stream_assumptions().shared_share


def _together(common: float, squares: float) -> float:
    return math.sqrt((1 - _OWN_SHARE) * common**2 + squares)


def life_of(recorder: Recorder, figures: RecorderFigures) -> DriveLife | None:
    """What recording does to a recorder's drives; None while they give no space."""
    if figures.trouble or recorder.drives <= recorder.hot_spares:
        return None
    return drive_life(
        recorder.drives - recorder.hot_spares,
        recorder.drive_tb,
        recorder.raid_level,
        figures.gb_per_day,
        recorder.rebuild_mb_per_s,
        recorder.drive_failures_per_year,
    )


def recorder_figures(
    recorder: Recorder, streams: Iterable[CameraFigures], substream_mbps: float = 0.0
) -> RecorderFigures:
    """Figures of a recorder from those of the cameras registered on it, and the substreams that it fetches besides where
    it takes all of them; else it fetches those that it keeps. The promise is worked out apart (``promised``)."""
    usable_tb, may_fail, trouble = 0.0, 0, ""
    if recorder.drives == 0:
        trouble = "it has no drives"
    else:
        try:
            usable_tb, may_fail = drive_array(
                recorder.drives, recorder.drive_tb, recorder.raid_level, recorder.hot_spares, recorder.reserve_share
            )
        except RefusedInput as error:
            trouble = error.problem
    joint, kept_mbps = Joint(), 0.0
    for stream in streams:
        joint.add(stream)
        kept_mbps += stream.substream_kept_mbps
    substream_mbps = substream_mbps if recorder.fetches_substreams else kept_mbps
    gb = joint.gb_per_day
    gb_low, gb_high = joint.gb_range()
    return RecorderFigures(
        usable_tb,
        may_fail,
        trouble,
        joint.cameras,
        joint.mbps + substream_mbps,
        joint.mbps_high() + substream_mbps,
        gb,
        gb_low,
        gb_high,
        erased(days_kept(usable_tb, gb), recorder) if gb else None,
        None,
        "nothing recorded" if not gb else "no storage" if trouble else "days",
        None,
    )


def erased(days: float, recorder: Recorder) -> float:
    """Days kept, where the recorder erases what is older than it may be."""
    return days if recorder.erase_after_days is None else min(days, recorder.erase_after_days)
