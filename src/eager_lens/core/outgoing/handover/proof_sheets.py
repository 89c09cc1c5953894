"""What was proved: acceptance tests with planned and seen values, their history, snags, the log's anchor, signatures."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.proof import site_tests, tests_on
from eager_lens.core.job.proof import Check, Walk
from eager_lens.core.job.proving import latest_checks
from eager_lens.core.outgoing.formats.sheets import Bullets, Sheet, SheetColumn, SheetTable, Signatures
from eager_lens.core.records.acceptance.planned import planned
from eager_lens.core.records.acceptance.recording import device_name
from eager_lens.core.records.acceptance.walks import caught_by_kind
from eager_lens.core.reference.acceptance import SITE, AcceptanceTest, acceptance_test
from eager_lens.core.units import count, figure

LOG_PROVES = (
    "The event log records every step of this job, each with the hash of the one before. Any change to an entry "
    "before the anchor below can be detected. The log does not prove that an entry was true, nor who sat at the "
    "keyboard."
)


class LogState(NamedTuple):
    """The event log when the sheets were made: its file's name, entries, the last one's hash, who signed it, and what is wrong
    with it (empty in a whole log)."""

    name: str
    entries: int
    hash: str
    signers: tuple[str, ...] = ()
    trouble: str = ""


def _seen(test: AcceptanceTest | None, check: Check) -> str:
    unit = f" {test.unit}" if test and test.unit else ""
    measured = "" if check.measured is None else f"{figure(check.measured, 4)}{unit}"
    return ", ".join(part for part in (measured, check.value) if part)


def _who(check: Check) -> str:
    return ", ".join(part for part in (check.at.replace("T", " ")[:16], check.by) if part)


def _withdrawn(check: Check) -> str:
    if check.counts:
        return ""
    return f"; withdrawn {check.withdrawn_at.replace('T', ' ')[:16]} by {check.withdrawn_by}: {check.withdrawn_why}"


def acceptance_sheet(assessment: Assessment) -> Sheet:
    """Every test that was made, planned against seen; of each device, what is still to be made."""
    facts, latest = assessment.facts, latest_checks(assessment.job)
    on = [*((device.id, tests_on(facts, device)) for device in facts.devices), (SITE, site_tests(facts))]
    made, left = [], []
    passed = total = 0
    for device_id, tests in on:
        total += len(tests)
        for test in tests:
            check = latest.get((device_id, test.id))
            if check is not None:
                passed += check.outcome == "passed"
                plan = planned(test, device_id, assessment).words
                name = device_name(device_id, assessment)
                made.append(
                    (name, test.heading, plan or "—", f"{check.outcome} {_seen(test, check)}".strip(), _who(check))
                )
        open_ones = [test.label for test in tests if (device_id, test.id) not in latest]
        if open_ones:
            left.append((device_name(device_id, assessment), ", ".join(open_ones)))
    columns = (
        SheetColumn("Device", 0.18),
        SheetColumn("Test", 0.16),
        SheetColumn("Planned", 0.24),
        SheetColumn("Seen", 0.24),
        SheetColumn("When, by whom", 0.18),
    )
    blocks = [SheetTable(columns, tuple(made), "Done")] if made else []
    blocks += _walks(assessment)
    if left:
        wide = (SheetColumn("Device", 0.25), SheetColumn("Still to be done", 0.75))
        blocks.append(SheetTable(wide, tuple(left), "Still to be done"))
    intro = (
        f"{figure(passed, 9)} of {count(total, 'acceptance test')} passed. Each result shows the measured value, the "
        "tester and the time."
    )
    return Sheet("Acceptance tests", intro, tuple(blocks))


def _walks(assessment: Assessment) -> list[SheetTable]:
    by_camera: dict[str, list[Walk]] = {}
    for walk in assessment.job.walks:
        by_camera.setdefault(walk.camera, []).append(walk)
    rows = tuple(
        (
            assessment.facts.name(camera_id),
            seen.zone,
            "dark" if seen.dark else "day",
            f"{seen.caught} of {seen.walks}",
            f"{figure(100 * seen.low_share)} to {figure(100 * seen.high_share)}",
        )
        for camera_id, walks in by_camera.items()
        for seen in caught_by_kind(walks)
    )
    columns = (
        SheetColumn("Camera", 0.3),
        SheetColumn("Zone", 0.2),
        SheetColumn("Light", 0.1),
        SheetColumn("Caught", 0.14, "right"),
        SheetColumn("True rate in 9 of 10 cases, %", 0.26, "right"),
    )
    return [SheetTable(columns, rows, "Walk tests")] if rows else []


def history_sheet(assessment: Assessment) -> Sheet:
    """Every time that a test was made, failures among them, in the order in which they stand on record."""
    rows = tuple(
        (
            _who(check),
            device_name(check.device, assessment),
            test.heading if (test := acceptance_test(check.check)) else check.check,
            f"{check.outcome} {_seen(test, check)}".strip() + _withdrawn(check),
            check.how,
        )
        for check in assessment.job.checks
    )
    columns = (
        SheetColumn("When, by whom", 0.2),
        SheetColumn("Device", 0.2),
        SheetColumn("Test", 0.2),
        SheetColumn("Seen", 0.28),
        SheetColumn("How", 0.12),
    )
    intro = (
        "Every result stays on record, including failures and withdrawn entries; a failed test can only be repeated."
        if rows
        else ("No tests have been done yet.")
    )
    return Sheet("History of the tests", intro, (SheetTable(columns, rows),) if rows else ())


def snags_sheet(assessment: Assessment) -> Sheet:
    """What is still to be put right, and what was."""
    snags = assessment.job.snags
    rows = tuple(
        (
            device_name(snag.device, assessment),
            snag.text,
            snag.owner or "—",
            snag.due.isoformat() if snag.due else "—",
            f"{snag.state}{': ' + snag.outcome if snag.outcome else ''}",
        )
        for snag in sorted(snags, key=lambda one: one.state != "open")
    )
    still = sum(snag.state == "open" for snag in snags)
    columns = (
        SheetColumn("Device", 0.18),
        SheetColumn("What is wrong", 0.34),
        SheetColumn("Owner", 0.13),
        SheetColumn("Due", 0.11),
        SheetColumn("State", 0.24),
    )
    intro = f"{count(still, 'snag is', 'snags are')} open." if still else "No snag is open."
    return Sheet("Snags", intro, (SheetTable(columns, rows),) if rows else (), follows=True)


def signature_sheet(assessment: Assessment, log: LogState | None) -> Sheet:
    """The log's anchor, and lines to sign on."""
    job = assessment.job
    installer = f"For the installer{': ' + job.prepared_by if job.prepared_by else ''}"
    customer = f"For the customer{': ' + job.customer if job.customer else ''}"
    blocks = [*_anchor(log), Signatures((installer, customer))]
    intro = "The contents of these papers were handed over and explained; the open snags are those listed."
    return Sheet("Handed over", intro, tuple(blocks))


def grouped(digits: str) -> str:
    """A hash in groups of eight, to be read and typed."""
    return " ".join(digits[at : at + 8] for at in range(0, len(digits), 8))


def _anchor(log: LogState | None) -> Iterator[SheetTable | Bullets]:
    if log is None:
        yield Bullets(("The job has no event log yet; it starts when the job is saved.",), "Event log")
        return
    rows = [
        ("File", log.name),
        ("Entries", figure(log.entries, 9)),
        ("Hash of the last", grouped(log.hash)),
        (
            "To check it",
            f"eager-lens log verify “{log.name}” --anchor “{log.entries} {log.hash[:16]}”",
        ),
        *(("Signed with the key", signer) for signer in log.signers),
        *((("Not whole", log.trouble),) if log.trouble else ()),
    ]
    yield SheetTable((SheetColumn("", 0.25), SheetColumn("", 0.75)), tuple(rows), "Anchor of the event log", LOG_PROVES)
