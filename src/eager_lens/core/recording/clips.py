"""How much of the time is recorded when events arrive at random and their clips run together."""

import math
from functools import lru_cache
from typing import NamedTuple

from eager_lens.core.calculator import Calculator
from eager_lens.core.recording.beta import beta_quantile
from eager_lens.core.validation import HoursOfDay, Number, Plain


class EventClipsIn(Plain):
    """Events and the seconds kept around them."""

    events_per_h: Number
    event_s: Number
    pre_s: Number
    post_s: Number
    hours_per_day: HoursOfDay = 24


class EventClipsOut(Plain):
    """What is recorded. ``recorded_share`` is a share of the hours in which events are recorded."""

    recorded_share: float
    recorded_h_per_day: float
    clips_per_day: float
    mean_clip_s: float


class EventClips(NamedTuple):
    """Recorded share of the watched hours (0 to 1), clips an hour, mean length of a clip in seconds."""

    recorded_share: float
    clips_per_h: float
    mean_clip_s: float


def event_clips(events_per_h: float, event_s: float, pre_s: float, post_s: float) -> EventClips:
    """Clips of events that arrive at random (Poisson), each asking for [start - pre_s, end + post_s].

    Overlapping spans run together into one clip. With L = pre + event + post and rho = events per second x L, the
    recorded share is 1 - exp(-rho), clips per second are events_per_s x exp(-rho), and the mean clip is
    (exp(rho) - 1) / events_per_s: the busy period of an M/G/infinity queue, which holds whatever the spread of the
    durations. The mean clip is written as L x expm1(rho) / rho, so that it stays exact for rare events.

    Raises:
        OverflowError: when events run together for longer than a number can hold (rho above some 700).

    Source: W. Stadje, "The busy period of the queueing system M/G/infinity", J. Appl. Prob. 22 (1985).
    """
    length_s = pre_s + event_s + post_s
    rho = events_per_h / 3600 * length_s
    if events_per_h == 0:
        return EventClips(0.0, 0.0, 0.0)
    mean_clip_s = length_s * (math.expm1(rho) / rho) if rho > 0 else length_s
    share = recorded_share(events_per_h, event_s, pre_s, post_s)
    return EventClips(share, events_per_h * math.exp(-rho), mean_clip_s)


def recorded_share(events_per_h: float, event_s: float, pre_s: float, post_s: float) -> float:
    """The recorded share alone; unlike the mean clip it stays finite however close the events."""
    return -math.expm1(-events_per_h / 3600 * (pre_s + event_s + post_s))


def spread_of_share(events_per_h: float, event_s: float, over_s: float) -> float:
    """Standard deviation of the share of a stretch of ``over_s`` seconds in which something goes on.

    Nothing goes on at two moments t apart with chance exp(-lambda (event_s + min(t, event_s))), lambda being events a second:
    no event may begin in the event_s before either. Less exp(-2 lambda event_s) that is the autocovariance, zero from
    t = event_s on; 2 / over_s^2 times its integral, weighted by over_s - t, is the variance of the mean.

    Raises:
        ZeroDivisionError: over nothing.

    Source: covariance of an M/G/infinity queue's empty state; variance of a stationary process's time average.
    """
    rate, reach_s = events_per_h / 3600, min(event_s, over_s)
    silent = math.exp(-rate * event_s)
    if rate * event_s == 0 or silent == 0:
        return 0.0
    if rate * reach_s < 1e-6:
        # To first order the covariance is that of a single event; the closed form below would cancel.
        integral = rate * (over_s * (event_s * reach_s - reach_s**2 / 2) - event_s * reach_s**2 / 2 + reach_s**3 / 3)
    else:
        decayed = -math.expm1(-rate * reach_s)
        weighted = over_s * decayed / rate - (decayed - rate * reach_s * (1 - decayed)) / rate**2
        integral = silent * weighted - silent**2 * (over_s * reach_s - reach_s**2 / 2)
    return math.sqrt(max(0.0, 2 * integral)) / over_s


@lru_cache(maxsize=20_000)
def share_ends(events_per_h: float, event_s: float, over_s: float) -> tuple[float, float]:
    """Both ends of 8 in 10 cases of that share. Its distribution is taken for a beta distribution of the same mean and
    variance: nothing or all of a glance, near the mean over a day."""
    mean, spread = recorded_share(events_per_h, event_s, 0, 0), spread_of_share(events_per_h, event_s, over_s)
    if spread == 0 or mean in (0.0, 1.0):
        return mean, mean
    both = mean * (1 - mean) / spread**2 - 1
    if both <= 1e-9:
        return float(mean > 0.9), float(mean > 0.1)
    low, high = (beta_quantile(both * mean, both * (1 - mean), chance) for chance in (0.1, 0.9))
    return low, high


def _run(given: EventClipsIn) -> EventClipsOut:
    clips = event_clips(given.events_per_h, given.event_s, given.pre_s, given.post_s)
    return EventClipsOut(
        recorded_share=clips.recorded_share,
        recorded_h_per_day=clips.recorded_share * given.hours_per_day,
        clips_per_day=clips.clips_per_h * given.hours_per_day,
        mean_clip_s=clips.mean_clip_s,
    )


EVENT_CLIPS = Calculator(
    name="event-clips",
    title="Recorded share of random events",
    formula="L = pre_s + event_s + post_s; rho = events_per_h / 3600 x L; recorded_share = 1 - exp(-rho); "
    "clips an hour = events_per_h x exp(-rho); mean_clip_s = L x (exp(rho) - 1) / rho",
    source="busy period of an M/G/infinity queue, Poisson arrivals; holds for any spread of durations",
    input_model=EventClipsIn,
    output_model=EventClipsOut,
    run=_run,
)
