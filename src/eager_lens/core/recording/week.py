"""A week of recording modes: spans of minutes on seven days, and the hours of each mode."""

import itertools
import re
from collections.abc import Iterable, Mapping
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import BeforeValidator, PlainSerializer, WithJsonSchema

from eager_lens.core.calculator import Calculator
from eager_lens.core.validation import Plain

Mode = Literal["continuous", "motion", "alarm input", "motion or alarm", "off"]
MODES: tuple[Mode, ...] = ("continuous", "motion", "alarm input", "motion or alarm", "off")
"""``motion or alarm`` is where motion and alarm-input hours overlap: the recorder keeps the union of both."""


class Fill(NamedTuple):
    """How a stretch of a mode is filled, on screen and on paper, so that it is told apart without colour."""

    solid: bool = False
    hatched: bool = False
    dotted: bool = False


FILLS: dict[Mode, Fill] = {
    "continuous": Fill(solid=True),
    "motion": Fill(hatched=True),
    "alarm input": Fill(dotted=True),
    "motion or alarm": Fill(hatched=True, dotted=True),
    "off": Fill(),
}

PATTERNS = "Filled: continuous. Hatched: motion. Dotted: alarm input. Both: motion or alarm. Empty: off."

CALCULATOR_MODES: dict[str, Mode] = {
    "always": "continuous",
    "movement": "motion",
    "input": "alarm input",
    "idle": "off",
}
"""The modes of the command line's ``week-hours``, by the names that it has for them."""

Day = Literal["mon", "tue", "wed", "thu", "fri", "sat", "sun"]
DAYS: tuple[Day, ...] = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
DAY_WORDS: dict[Day, str] = {
    "mon": "Monday",
    "tue": "Tuesday",
    "wed": "Wednesday",
    "thu": "Thursday",
    "fri": "Friday",
    "sat": "Saturday",
    "sun": "Sunday",
}

MINUTES_A_DAY = 24 * 60

_CLOCK = re.compile(r"([01][0-9]|2[0-4]):([0-5][0-9])", re.ASCII)


def minute_of(clock: str) -> int:
    """``"08:15"`` as minutes since midnight; ``"24:00"`` ends a day.

    Raises:
        ValueError: for anything but two digits, a colon and two digits, from 00:00 to 24:00.
    """
    match = _CLOCK.fullmatch(clock)
    if not match or (match[1] == "24" and match[2] != "00"):
        raise ValueError(f"{clock!r} is no time of day; allowed is HH:MM with two digits each, 00:00 to 24:00")
    return int(match[1]) * 60 + int(match[2])


_TYPED = re.compile(
    r"(?P<hour>\d{1,2})(?:\s*[:.h]\s*(?P<minute>\d{2})?|(?P<run>\d{2}))?\s*(?P<half>am|pm|a\.m\.|p\.m\.)?", re.ASCII
)


def typed_minute(text: str) -> int:
    """A time of day as people type it, as minutes since midnight: ``7:30``, ``0730``, ``7.30``, ``7h30``, ``7:30 pm``, ``19``.

    Raises:
        ValueError: for what is no time of day.
    """
    match = _TYPED.fullmatch(text.strip().lower())
    refused = ValueError(f"{text.strip()!r} is no time of day; type it like 7:30, 0730, 19.30 or 7:30 pm")
    if not match:
        raise refused
    hour, minute = int(match["hour"]), int(match["minute"] or match["run"] or 0)
    if match["half"]:
        if not 1 <= hour <= 12:
            raise refused
        hour = hour % 12 + (12 if match["half"].startswith("p") else 0)
    if minute > 59 or hour > 24 or (hour == 24 and minute):
        raise refused
    return hour * 60 + minute


def clock_of(minute: int) -> str:
    """Minutes since midnight as ``HH:MM``."""
    return f"{minute // 60:02d}:{minute % 60:02d}"


class Span(NamedTuple):
    """A stretch of one day, in minutes since midnight, start before end, and its mode."""

    start: int
    end: int
    mode: Mode


AS_THEY_ARE: Mapping[str, Mode] = {mode: mode for mode in MODES}


def _span_from(value: Any, modes: Mapping[str, Mode] = AS_THEY_ARE) -> Span:
    if isinstance(value, Span):
        return value
    if not isinstance(value, list | tuple) or len(value) != 3 or not all(isinstance(part, str) for part in value):
        raise ValueError('a span is a list of start, end and mode, as in ["08:00", "18:00", "continuous"]')
    start, end, mode = minute_of(value[0]), minute_of(value[1]), value[2]
    if mode not in modes:
        raise ValueError(f"the mode {mode!r} is not known; allowed are {', '.join(modes)}")
    if end <= start:
        raise ValueError(
            f"the end {value[1]} is not after the start {value[0]}; write a span over midnight as two, "
            "one to 24:00 and one from 00:00 of the next day"
        )
    return Span(start, end, modes[mode])


def _span_schema(allowed: Iterable[str]) -> WithJsonSchema:
    clock = {"type": "string", "pattern": "^([01][0-9]|2[0-4]):[0-5][0-9]$"}
    return WithJsonSchema(
        {"type": "array", "prefixItems": [clock, clock, {"enum": list(allowed)}], "minItems": 3, "maxItems": 3}
    )


_AS_LIST = PlainSerializer(lambda span: [clock_of(span.start), clock_of(span.end), span.mode], return_type=list[str])

SpanField = Annotated[Span, BeforeValidator(_span_from), _AS_LIST, _span_schema(MODES)]
"""A span as it stands in JSON: ``["08:00", "18:00", "continuous"]``."""

SingleSpanField = Annotated[
    Span, BeforeValidator(lambda value: _span_from(value, CALCULATOR_MODES)), _AS_LIST, _span_schema(CALCULATOR_MODES)
]


class WeekPlan(Plain):
    """Spans by day. Later spans win where they overlap; time without a span is off."""

    mon: tuple[SpanField, ...] = ()
    tue: tuple[SpanField, ...] = ()
    wed: tuple[SpanField, ...] = ()
    thu: tuple[SpanField, ...] = ()
    fri: tuple[SpanField, ...] = ()
    sat: tuple[SpanField, ...] = ()
    sun: tuple[SpanField, ...] = ()

    def of_day(self, day: Day) -> tuple[Span, ...]:
        """The spans of one day, in the order in which they apply."""
        spans: tuple[Span, ...] = getattr(self, day)
        return spans


def flat_spans(spans: Iterable[Span]) -> tuple[Span, ...]:
    """The same day as spans that neither overlap nor touch with one mode, in order of time, hours that are off left out."""
    laid = list(spans)
    cuts = sorted({0, MINUTES_A_DAY, *(span.start for span in laid), *(span.end for span in laid)})
    flat: list[Span] = []
    for start, end in itertools.pairwise(cuts):
        mode: Mode = next((span.mode for span in reversed(laid) if span.start <= start < span.end), "off")
        if mode == "off":
            continue
        if flat and flat[-1].end == start and flat[-1].mode == mode:
            flat[-1] = Span(flat[-1].start, end, mode)
        else:
            flat.append(Span(start, end, mode))
    return tuple(flat)


def union_mode(one: Mode, other: Mode) -> Mode:
    """What is recorded where hours of two modes overlap and neither is to take the other's place."""
    if "continuous" in (one, other):
        return "continuous"
    if one == other or other == "off":
        return one
    return other if one == "off" else "motion or alarm"


def added(plan: WeekPlan, strokes: Mapping[Day, Iterable[Span]]) -> WeekPlan:
    """The week with further spans added to what is there: where they overlap, the union of both modes is kept."""
    days: dict[str, tuple[Span, ...]] = {}
    for day, new in strokes.items():
        spans = flat_spans(plan.of_day(day))
        for stroke in new:
            cuts = sorted({stroke.start, stroke.end, *(cut for span in spans for cut in span[:2])})
            pieces = []
            for start, end in itertools.pairwise(cut for cut in cuts if stroke.start <= cut <= stroke.end):
                there: Mode = next((span.mode for span in spans if span.start <= start < span.end), "off")
                pieces.append(Span(start, end, union_mode(there, stroke.mode)))
            spans = flat_spans([*spans, *pieces])
        days[day] = spans
    return plan.model_copy(update=days)


def painted(plan: WeekPlan, strokes: Mapping[Day, Iterable[Span]]) -> WeekPlan:
    """The week with further spans laid over it, tidied to spans that do not overlap.

    A stroke of mode off takes away what was there.
    """
    return plan.model_copy(
        update={day: flat_spans([*plan.of_day(day), *new]) for day, new in strokes.items()},
    )


def schedule_hours(plan: WeekPlan) -> dict[Mode, float]:
    """Hours of each mode over the week; together 168."""
    days = [day_hours(plan.of_day(day)) for day in DAYS]
    return {mode: sum(day[mode] for day in days) for mode in MODES}


def day_hours(spans: Iterable[Span]) -> dict[Mode, float]:
    """Hours of each mode on one day; together 24."""
    minutes: dict[Mode, int] = dict.fromkeys(MODES, 0)
    for span in flat_spans(spans):
        minutes[span.mode] += span.end - span.start
    minutes["off"] = MINUTES_A_DAY - sum(minutes.values())
    return {mode: minutes[mode] / 60 for mode in MODES}


class SingleModeWeek(WeekPlan):
    """A week as the command line takes it, without hours of two modes at once."""

    mon: tuple[SingleSpanField, ...] = ()
    tue: tuple[SingleSpanField, ...] = ()
    wed: tuple[SingleSpanField, ...] = ()
    thu: tuple[SingleSpanField, ...] = ()
    fri: tuple[SingleSpanField, ...] = ()
    sat: tuple[SingleSpanField, ...] = ()
    sun: tuple[SingleSpanField, ...] = ()


class WeekHoursIn(Plain):
    """One week."""

    week: SingleModeWeek


class Hours(Plain):
    """Hours of each mode over a week."""

    always: float
    movement: float
    input: float
    idle: float


class WeekHoursOut(Plain):
    """Hours of each mode over the week; together 168."""

    hours: Hours


WEEK_HOURS = Calculator(
    name="week-hours",
    title="Hours of each mode in a week",
    formula="later spans win where they overlap; unnamed time is `idle`; hours of each mode summed over seven days",
    source="a week of 168 h; clock changes are left out",
    input_model=WeekHoursIn,
    output_model=WeekHoursOut,
    run=lambda given: WeekHoursOut(
        hours=Hours(**{name: schedule_hours(given.week)[mode] for name, mode in CALCULATOR_MODES.items()})
    ),
)
