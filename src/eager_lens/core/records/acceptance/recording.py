"""From what is typed into tests to the edit that puts it on record."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.proof import Check, CheckHow
from eager_lens.core.job.proving import record_checks, withdraw_checks
from eager_lens.core.records.acceptance.planned import planned
from eager_lens.core.records.acceptance.typed import typed_result
from eager_lens.core.reference.acceptance import SITE, AcceptanceTest
from eager_lens.core.units import count

WITHDRAWN = ("withdrawn", "withdraw", "withdrawn:")


def device_name(device_id: str, assessment: Assessment) -> str:
    """The name of what a test is made on."""
    return "Whole site" if device_id == SITE else assessment.facts.name(device_id)


def typed_checks(
    tests: Sequence[AcceptanceTest], device_ids: Sequence[str], text: str, assessment: Assessment, by: str, at: str
) -> Edit:
    """The edit for what was typed for some tests on some devices; ``withdrawn`` and why takes a wrong entry back.

    Args:
        tests, device_ids: each test is recorded on each device. text: see ``typed``. by, at: who and when (local time).

    Raises:
        RefusedInput: when it cannot be read, or when one measured value is typed for several devices.
    """
    whom = device_name(device_ids[0], assessment) if len(device_ids) == 1 else count(len(device_ids), "device")
    word, _, why = text.strip().partition(" ")
    if word.lower() in WITHDRAWN or not word:
        return withdraw_checks([(device_id, test.id) for test in tests for device_id in device_ids], why, by, at)
    checks = []
    for test in tests:
        for device_id in device_ids:
            result = typed_result(test, planned(test, device_id, assessment), text)
            if result.measured is not None and len(device_ids) > 1:
                raise RefusedInput(
                    test.label, "a measured value belongs to one device; select one device and enter it there"
                )
            fields: dict[str, Any] = {**result._asdict(), "by": by[:200], "at": at}
            checks.append(Check(device=device_id, check=test.id, **fields))
    return record_checks(checks, _words(tests, checks, whom))


def measured_check(
    test: AcceptanceTest,
    device_id: str,
    measured: float,
    value: str,
    how: CheckHow,
    assessment: Assessment,
    by: str,
    at: str,
    photos: tuple[str, ...] = (),
) -> Edit:
    """The edit for a value that the program measured itself: the plan says whether it passes."""
    holds = planned(test, device_id, assessment).holds(measured)
    check = Check(
        device=device_id,
        check=test.id,
        outcome="passed" if holds else "failed",
        by=by[:200],
        at=at,
        value=value[:200],
        measured=measured,
        how=how,
        photos=photos,
    )
    return record_checks([check], _words([test], [check], device_name(device_id, assessment)))


def _words(tests: Sequence[AcceptanceTest], checks: Sequence[Check], whom: str) -> str:
    what = tests[0].label if len(tests) == 1 else count(len(tests), "test")
    outcomes = {check.outcome for check in checks}
    outcome = outcomes.pop() if len(outcomes) == 1 else "recorded"
    return f"{what} {outcome}: {whom}"


def result_words(test: AcceptanceTest | None, check: Check) -> str:
    """A result for people: its measured value with its unit, and what was seen."""
    unit = f" {test.unit}" if test is not None and test.unit else ""
    measured = "" if check.measured is None else f"{check.measured:.6g}{unit}"
    return " · ".join(part for part in (measured, check.value) if part)
