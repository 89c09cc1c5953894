"""Years of a recorder drawn clip by clip, to hold the promise against: written apart from the program's own method.

Takes from an assessment only each stream's rate with its range; everything else from the job. Days are drawn one after the other:
activity, the events of each camera, their clips as they overlap, and what the day then stores.

    PYTHONPATH=src:. python -m tests.core.promise_years        # all twenty jobs, a minute or two
"""

import datetime
import math
from statistics import NormalDist

import numpy as np

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.rates import estimate_of
from eager_lens.core.job.edits import add_exception
from eager_lens.core.job.model import Activity, Assumptions, Retention, Schedule
from eager_lens.core.recording.week import DAYS, Span, WeekPlan
from eager_lens.core.reference.false_alarms import false_alarms
from eager_lens.core.values.motion_rule import MotionRule
from tests.support import camera, job_with, recorder, week_of

RANGE_Z = 1.2816  # 8 of 10 cases
SHARED = 0.4
BEFORE = 80
MOST_DRAWN = 150


def clips_h(random, events_per_h, clip_s, hours):
    """Hours that are recorded of so many hours, each array element its own draw of arrivals."""
    count = random.poisson(events_per_h * hours)
    if count.size and count.max() > MOST_DRAWN:
        # Very many clips come to their mean: what is over is taken by the closed formula, the rest is drawn.
        many = events_per_h * hours > MOST_DRAWN / 2
        few = clips_h(random, np.where(many, 0.0, events_per_h), clip_s, hours)
        return np.where(many, hours * -np.expm1(-events_per_h * clip_s / 3600), few)
    most = int(count.max()) if count.size else 0
    if not most:
        return np.zeros(count.shape)
    # Sorted uniform starts of a known number are partial sums of exponentials over their total.
    gaps = random.standard_exponential((*count.shape, most + 1), np.float32)
    number = np.arange(most + 1)
    gaps[number > count[..., None]] = 0
    gaps *= (hours * 3600 / gaps.sum(axis=-1))[..., None]
    between = gaps[..., 1:]  # from each start to the next, or to the end
    # A clip that begins late goes on until the next event after the hours.
    wait_s = 3600 / np.maximum(events_per_h, 1e-9)
    between += (number[1:] == count[..., None]) * random.exponential(size=count.shape)[..., None] * wait_s[..., None]
    covered = np.minimum(between, clip_s)
    covered[number[1:] > count[..., None]] = 0
    return covered.sum(axis=-1) / 3600


def evenly(random, years):
    """Normal values, one out of each of so many equally likely ranges, in any order: fewer years are enough then."""
    return random.permutation([NormalDist().inv_cdf((at + random.random()) / years) for at in range(years)])


def two_halves(own, low, middle, high):
    """What two half normal distributions give at these normal values, over its mean as many drawn values have it."""

    def at(z):
        return np.exp(np.where(z < 0, z * math.log(middle / low), z * math.log(high / middle)) / RANGE_Z)

    many = np.array([NormalDist().inv_cdf((at + 0.5) / 20_000) for at in range(20_000)])
    return at(own) / at(many).mean()


def sent_over_mean(one, figures, own):
    """What a camera sends in each year over what it is thought to send; under a cap each kind of time by itself."""
    if one.cap_mbps is None or one.measured_mbps is not None or one.rate_control == "CBR":
        return two_halves(own, figures.low_mbps, figures.rate_mbps, figures.high_mbps)
    whole, still, most = (estimate_of(one, busy_share=share) for share in (None, 0.0, 1.0))
    busy = 1 - math.exp(-one.events_per_h * one.event_s / 3600)
    down, up = (math.hypot(*(side[at] for side in whole.doubts.values())) for at in (0, 1))
    asked = two_halves(own, math.exp(-down), 1.0, math.exp(up))
    sent = np.zeros(own.shape)
    for half in ("day_mbps", "night_mbps"):
        mean, quiet, busiest = (getattr(estimated.rate, half) for estimated in (whole, still, most))
        lively = min(busiest, (mean - (1 - busy) * quiet) / busy)
        quiet = (mean - busy * lively) / (1 - busy)
        for share, mbps in ((busy, lively), (1 - busy, quiet)):
            sent += 0.5 * share * np.minimum(mbps * asked, one.cap_mbps)
    return sent / figures.rate_mbps


def starts_of(one):
    """Starts an hour on motion, how long one lasts, and by how many times more or fewer they may be in 8 of 10 cases."""
    if one.events_from:
        return one.events_per_h, one.event_s, 1.0
    rule = one.motion_rule
    false = false_alarms(one.scene, "untuned" if rule is None else "detection" if rule.kinds else "tuned")
    per_h = one.events_per_h + false.per_h
    return per_h, (one.events_per_h * one.event_s + false.per_h * false.seconds) / per_h, 3.0


def drawn_worst_days(job, recorder_id="rec-1", years=800, seed=5):
    """Days kept on the worst day of each year."""
    random = np.random.default_rng(seed)
    assessment = assess(job)
    got = assessment.recorder(recorder_id)
    days = BEFORE + 365
    spread = math.sqrt(math.log(1 + job.activity.day_spread**2))
    memory = job.activity.day_memory
    normal = random.standard_normal((years, days))
    for at in range(1, days):
        normal[:, at] = memory * normal[:, at - 1] + math.sqrt(1 - memory**2) * normal[:, at]
    level = np.exp(spread * normal - spread**2 / 2)
    date_of = [datetime.date(2018, 1, 1) + datetime.timedelta(days=at) for at in range(365)]
    of_year = (np.arange(days) - BEFORE) % 365
    if job.activity.busy_days:
        begins = random.integers(0, 365, (years, 1))
        level *= np.where((of_year - begins) % 365 < job.activity.busy_days, job.activity.busy_factor, 1.0)
    plans = {one.id: one.plan for one in job.schedules}
    stored = np.zeros((years, days))
    common = {codec: evenly(random, years) for codec in ("h264", "h265", "mjpeg")}
    for one in job.cameras:
        figures = assessment.camera(one.id)
        own = evenly(random, years)
        if figures.rate_origin == "assumed":
            own = math.sqrt(SHARED) * common[one.codec] + math.sqrt(1 - SHARED) * own
        factor = sent_over_mean(one, figures, own)
        gb_per_h = figures.rate_mbps * 0.45
        starts_per_h, start_s, times = starts_of(one)
        clip_s = one.pre_recording_s + start_s + one.post_recording_s + one.key_frame_s / 2
        starts_per_h = starts_per_h * np.exp(evenly(random, years) * math.log(times) / RANGE_Z)[:, None]
        continuous, motion = np.zeros(365), np.zeros(365)
        for at, date in enumerate(date_of):
            schedule = one.schedule
            for exception in job.exceptions:
                first, last = ((d.month, d.day) for d in (exception.first, exception.last))
                if first <= (date.month, date.day) <= last and exception.instead_of in ("", one.schedule):
                    schedule = exception.schedule
            for span in plans[schedule].of_day(DAYS[date.weekday()]):
                hours = (span.end - span.start) / 60
                continuous[at] += hours * (span.mode == "continuous")
                motion[at] += hours * (span.mode == "motion")
        # In spans of some hours, so that little memory is taken.
        for hours in np.unique(motion[motion > 0]):
            here = np.flatnonzero(motion[of_year] == hours)
            for part in np.array_split(here, max(1, len(here) // 40)):
                recorded = clips_h(random, starts_per_h * level[:, part], clip_s, hours)
                stored[:, part] += factor[:, None] * gb_per_h * recorded
        stored += factor[:, None] * gb_per_h * continuous[of_year][None, :]
    run = np.concatenate((np.zeros((years, 1)), np.cumsum(stored, axis=1)), axis=1)
    worst = np.full(years, np.inf)
    for end in range(BEFORE + 1, days + 1):
        begin_gb = run[:, end] - got.usable_tb * 1000
        at = np.clip((run[:, : end + 1] <= begin_gb[:, None]).sum(axis=1) - 1, 0, end - 1)
        rows = np.arange(years)
        inside = (begin_gb - run[rows, at]) / np.maximum(run[rows, at + 1] - run[rows, at], 1e-12)
        # What reaches back before the first day that was drawn is no year's worst.
        worst = np.minimum(worst, np.where(begin_gb < 0, np.inf, end - at - inside))
    return worst


def promised_by_drawing(job, years=800, seed=5):
    """Days kept on the worst day in 95 of 100 years."""
    return float(np.quantile(drawn_worst_days(job, years=years, seed=seed), 0.05))


def mixed_week(name="Days continuous", **fields):
    """Ten hours continuous and the rest on motion from Monday to Friday, motion at the weekend."""
    day = (Span(420, 1020, "continuous"), Span(0, 420, "motion"), Span(1020, 1440, "motion"))
    free = (Span(0, 1440, "motion"),)
    plan = {one: tuple(sorted(day, key=lambda span: span.start)) for one in DAYS[:5]} | dict.fromkeys(DAYS[5:], free)
    return Schedule(**{"id": "week-1", "name": name, "plan": WeekPlan(**plan), **fields})


def flat(cameras, drive_tb, schedules=None, **fields):
    """A job without dark hours that differ, kept on one drive."""
    return job_with(
        cameras,
        recorders=[recorder(drive_tb=drive_tb, channels=64)],
        schedules=schedules or (week_of(),),
        retention=Retention(least_days=10),
        **{"time_zone": "UTC", "assumed": Assumptions(), **fields},
    )


def on_motion(count, **fields):
    """Cameras with measured rates, or what is given."""
    return [
        camera(n, **{"measured_mbps": 2.0, "events_per_h": 0.4, "event_s": 240.0, **fields})
        for n in range(1, count + 1)
    ]


def summer(job, **fields):
    """A job in which June to August stores more."""
    edit = add_exception("Summer", datetime.date(2026, 6, 1), datetime.date(2026, 8, 31), yearly=True, **fields)
    return edit.apply(job)


MOTION = (week_of("motion"),)
BOTH = (week_of("motion"), week_of(id="week-2", name="Round the clock"))
UNSURE = {"measured_mbps": None, "rate_control": "VBR", "cap_mbps": None}
CAPPED = {"scene": "yard-dark", "codec": "h265", "rate_control": "capped VBR", "cap_mbps": 1.5}

PEOPLE = {"scene": "yard-dark", "motion_rule": MotionRule(kinds=("person", "vehicle"))}
FARM = {"scene": "yard-dark", "events_per_h": 4.0, "event_s": 20.0}


JOBS = {
    "continuous, measured": lambda: flat(on_motion(4), 2.2),
    "continuous, one estimated": lambda: flat([camera(1, scene="yard-dark")], 0.6),
    "continuous, 16 estimated": lambda: flat([camera(n, scene="yard-dark") for n in range(1, 17)], 8),
    "continuous, two codecs": lambda: flat(
        [camera(n, scene="yard-dark", codec="h264" if n % 2 else "h265") for n in range(1, 7)], 4
    ),
    "motion, one camera": lambda: flat(on_motion(1), 0.035, MOTION),
    "motion, four cameras": lambda: flat(on_motion(4), 0.1, MOTION),
    "motion, estimated": lambda: flat(on_motion(4, **UNSURE), 0.05, MOTION),
    "continuous, capped": lambda: flat([camera(n, **CAPPED) for n in range(1, 9)], 2.6),
    "continuous, one capped": lambda: flat([camera(1, **CAPPED | {"cap_mbps": 2.5})], 0.5),
    "continuous, a high cap": lambda: flat([camera(n, **CAPPED | {"cap_mbps": 6}) for n in range(1, 9)], 4),
    "motion, not counted": lambda: flat(on_motion(4, events_from="", **PEOPLE), 0.12, MOTION),
    "motion, not counted, one camera": lambda: flat(on_motion(1, events_from="", **PEOPLE), 0.04, MOTION),
    "motion, false alarms": lambda: flat(on_motion(3, events_from="", **FARM), 0.3, MOTION),
    "motion, false alarms and caps": lambda: flat(
        [camera(n, events_from="", events_per_h=4, **CAPPED) for n in range(1, 9)], 2.0, MOTION
    ),
    "mixed week, not counted": lambda: flat(
        [camera(n, events_from="", **CAPPED | PEOPLE) for n in range(1, 5)], 0.5, (mixed_week(),)
    ),
    "motion, no memory": lambda: flat(on_motion(2), 0.06, MOTION, activity=Activity(day_memory=0)),
    "motion, long memory": lambda: flat(on_motion(2), 0.08, MOTION, activity=Activity(day_memory=0.85)),
    "motion, days very uneven": lambda: flat(on_motion(2), 0.06, MOTION, activity=Activity(day_spread=0.6)),
    "motion, days alike": lambda: flat(on_motion(2), 0.06, MOTION, activity=Activity(day_spread=0.1)),
    "motion, short retention": lambda: flat(on_motion(2), 0.016, MOTION),
    "motion, long retention": lambda: flat(on_motion(2), 0.14, MOTION),
    "motion, busy season": lambda: flat(on_motion(2), 0.06, MOTION, activity=Activity(busy_days=40, busy_factor=1.8)),
    "motion, rare events": lambda: flat(on_motion(3, events_per_h=0.1), 0.012, MOTION),
    "motion, clips that run together": lambda: flat(on_motion(2, events_per_h=2.0, event_s=480.0), 0.24, MOTION),
    "mixed week, measured": lambda: flat(on_motion(3), 0.6, (mixed_week(),)),
    "mixed week, estimated": lambda: flat(on_motion(3, **UNSURE), 0.2, (mixed_week(),)),
    "summer stores more": lambda: summer(flat(on_motion(2), 0.25, BOTH), instead_of="week-1", schedule="week-2"),
    "summer and a busy season": lambda: summer(
        flat(on_motion(2), 0.3, BOTH, activity=Activity(busy_days=40, busy_factor=1.8)),
        instead_of="week-1",
        schedule="week-2",
    ),
}


def main():
    """Print both for all jobs."""
    for name, make in JOBS.items():
        job = make()
        got, drawn = assess(job).recorder("rec-1"), promised_by_drawing(job, years=2000)
        off = 100 * (got.promised_days / drawn - 1)
        print(
            f"{name:34} drawn {drawn:7.2f}  promised {got.promised_days:7.2f}  {off:+5.1f} %  mean {got.mean_days:.1f}"
        )


if __name__ == "__main__":
    main()
