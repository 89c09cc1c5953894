"""What is typed into a test, read: an outcome, a measured value with its unit, and what was seen.

``passed sharp``, ``failed dark``, ``161``, ``161 px/m plate at 12 m``, ``-0.4 s``, ``4 of 5``; a measured value is judged by the
plan, and a word in front of it may only judge harder.
"""

from __future__ import annotations

import math
import re
from typing import Literal, NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.fields import number_from
from eager_lens.core.records.acceptance.planned import Planned
from eager_lens.core.reference.acceptance import AcceptanceTest
from eager_lens.core.units import figure

Outcome = Literal["passed", "failed"]

_OUTCOMES: dict[str, Outcome] = {"passed": "passed", "pass": "passed", "p": "passed", "ok": "passed", "yes": "passed"}
_OUTCOMES |= {"failed": "failed", "fail": "failed", "f": "failed", "no": "failed"}
_NUMBER = re.compile(r"([+\-−]?\d[\d.,]{0,20})(.*)", re.DOTALL)
_OF = re.compile(r"(\d{1,6})\s*(?:of|/)\s*(\d{1,6})\b(.*)", re.DOTALL)
MOST_LETTERS = 200


class TypedResult(NamedTuple):
    """What was typed: the outcome, the value seen in words, and the measured value in the test's unit, if any."""

    outcome: Outcome
    value: str
    measured: float | None = None


def typed_result(test: AcceptanceTest, planned: Planned, text: str) -> TypedResult:
    """What a typed text says.

    Raises:
        RefusedInput: when it says neither an outcome nor a value, when the unit is another one, or when it calls a measured
            value passed that the plan does not let pass.
    """
    word, _, rest = text.strip().partition(" ")
    said = _OUTCOMES.get(word.lower())
    rest = rest.strip() if said else text.strip()
    if not rest and said:
        return TypedResult(said, "")
    measured, value = _measured(test, rest)
    if measured is None:
        if said is None:
            raise RefusedInput(test.label, f"{text.strip()!r} was given; {_allowed(test)}")
        return TypedResult(said, rest[:MOST_LETTERS])
    holds = planned.holds(measured)
    if said == "passed" and not holds:
        raise RefusedInput(
            test.label,
            f"{figure(measured, 4)} {test.unit} does not pass: planned is {planned.words}. Record the result; the snag can "
            "then be accepted with a reason",
        )
    return TypedResult(said or ("passed" if holds else "failed"), value[:MOST_LETTERS], measured)


def _allowed(test: AcceptanceTest) -> str:
    begin = "begin with passed or failed, then write what you saw"
    return f"enter a value in {test.unit}, or {begin}" if test.unit else begin


def _measured(test: AcceptanceTest, text: str) -> tuple[float | None, str]:
    """The measured value in a text, and what stands with it."""
    if not test.unit:
        return None, text
    part = _OF.match(text)
    if part and test.unit == "%":
        caught, walks = int(part[1]), int(part[2])
        if not 0 < walks >= caught:
            raise RefusedInput(test.label, f"{text!r} was given; enter a count such as 4 of 5")
        return 100 * caught / walks, text
    number = _NUMBER.match(text)
    if number is None:
        return None, text
    try:
        measured = number_from(number[1].rstrip(".,").replace("−", "-"))
    except ValueError as error:
        raise RefusedInput(test.label, str(error)) from None
    tail = number[2].strip()
    unit, _, more = tail.partition(" ")
    if unit.lower() == test.unit.lower():
        tail = more.strip()
    elif unit in _OTHER_UNITS:
        raise RefusedInput(test.label, f"{text!r} was given; enter the value in {test.unit}")
    if not math.isfinite(measured) or abs(measured) > 1e9:
        raise RefusedInput(test.label, f"{text!r} was given; a measured value cannot be like that")
    return measured, tail


_OTHER_UNITS = {
    "V",
    "W",
    "A",
    "mA",
    "kW",
    "s",
    "ms",
    "min",
    "h",
    "px/m",
    "px",
    "m",
    "%",
    "dBm",
    "dB",
    "Mb/s",
    "kb/s",
    "Gb/s",
    "GB",
    "TB",
}
_OTHER_UNITS |= {"days", "weeks"}
