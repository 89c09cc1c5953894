"""How much of the time is recorded when events arrive at random and their clips run together."""

import math
from typing import NamedTuple

from eager_lens.core.calculator import Calculator
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
