"""What was proved: acceptance tests with planned and seen values, their history, snags, the log's anchor, signatures."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.proof import site_tests, tests_on
from eager_lens.core.job.proof import Check, Walk
from eager_lens.core.job.proving import latest_checks
from eager_lens.core.outgoing.formats.sheets import Bullets, Sheet, SheetColumn, SheetTable, Signatures
from eager_lens.core.outgoing.formats.texts import t
from eager_lens.core.records.acceptance.planned import planned
from eager_lens.core.records.acceptance.recording import device_name
from eager_lens.core.records.acceptance.walks import caught_by_kind
from eager_lens.core.reference.acceptance import SITE, AcceptanceTest, acceptance_test
from eager_lens.core.units import count, figure

LOG_PROVES = t("proof.the_event_log_holds_every_step")


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
    return t(
        "proof.withdrawn", at=check.withdrawn_at.replace("T", " ")[:16], by=check.withdrawn_by, why=check.withdrawn_why
    )


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
        SheetColumn(t("proof.device"), 0.18),
        SheetColumn(t("proof.test"), 0.16),
        SheetColumn(t("proof.planned"), 0.24),
        SheetColumn(t("proof.seen"), 0.24),
        SheetColumn(t("proof.when_by_whom"), 0.18),
    )
    blocks = [SheetTable(columns, tuple(made), t("proof.made"))] if made else []
    blocks += _walks(assessment)
    if left:
        wide = (SheetColumn(t("proof.device"), 0.25), SheetColumn(t("proof.still_to_be_made"), 0.75))
        blocks.append(SheetTable(wide, tuple(left), t("proof.still_to_be_made")))
    intro = t("proof.of_passed_each_was_made_on", passed=figure(passed, 9), acceptances=count(total, "acceptance test"))
    return Sheet(t("proof.acceptance_tests"), intro, tuple(blocks))


def _walks(assessment: Assessment) -> list[SheetTable]:
    by_camera: dict[str, list[Walk]] = {}
    for walk in assessment.job.walks:
        by_camera.setdefault(walk.camera, []).append(walk)
    rows = tuple(
        (
            assessment.facts.name(camera_id),
            seen.zone,
            t("proof.dark") if seen.dark else t("proof.day"),
            t("proof.of", caught=seen.caught, walks=seen.walks),
            t("proof.to", value=figure(100 * seen.low_share), value_2=figure(100 * seen.high_share)),
        )
        for camera_id, walks in by_camera.items()
        for seen in caught_by_kind(walks)
    )
    columns = (
        SheetColumn(t("proof.camera"), 0.3),
        SheetColumn(t("proof.zone"), 0.2),
        SheetColumn(t("proof.light"), 0.1),
        SheetColumn(t("proof.caught"), 0.14, "right"),
        SheetColumn(t("proof.true_rate_in_9_of_10"), 0.26, "right"),
    )
    return [SheetTable(columns, rows, t("proof.walk_tests"))] if rows else []


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
        SheetColumn(t("proof.when_by_whom"), 0.2),
        SheetColumn(t("proof.device"), 0.2),
        SheetColumn(t("proof.test"), 0.2),
        SheetColumn(t("proof.seen"), 0.28),
        SheetColumn(t("proof.how"), 0.12),
    )
    intro = t("proof.what_failed_stays_on_record_and") if rows else t("proof.no_test_was_made_yet")
    return Sheet(t("proof.history_of_the_tests"), intro, (SheetTable(columns, rows),) if rows else ())


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
        SheetColumn(t("proof.device"), 0.18),
        SheetColumn(t("proof.what_is_wrong"), 0.34),
        SheetColumn(t("proof.owner"), 0.13),
        SheetColumn(t("proof.due"), 0.11),
        SheetColumn(t("proof.state"), 0.24),
    )
    intro = t("proof.open", snags=count(still, "snag is", "snags are")) if still else t("proof.no_snag_is_open")
    return Sheet(t("proof.snags"), intro, (SheetTable(columns, rows),) if rows else (), follows=True)


def signature_sheet(assessment: Assessment, log: LogState | None) -> Sheet:
    """The log's anchor, and lines to sign on."""
    job = assessment.job
    installer = t("proof.for_the_installer", value=": " + job.prepared_by if job.prepared_by else "")
    customer = t("proof.for_the_customer", value=": " + job.customer if job.customer else "")
    blocks = [*_anchor(log), Signatures((installer, customer))]
    intro = t("proof.what_stands_on_these_sheets_was")
    return Sheet(t("proof.handed_over"), intro, tuple(blocks))


def grouped(digits: str) -> str:
    """A hash in groups of eight, to be read and typed."""
    return " ".join(digits[at : at + 8] for at in range(0, len(digits), 8))


def _anchor(log: LogState | None) -> Iterator[SheetTable | Bullets]:
    if log is None:
        yield Bullets((t("proof.the_job_has_no_event_log"),), t("proof.event_log"))
        return
    rows = [
        (t("proof.file"), log.name),
        (t("proof.entries"), figure(log.entries, 9)),
        (t("proof.hash_of_the_last"), grouped(log.hash)),
        (
            t("proof.to_check_it"),
            t("proof.eager_lens_log_verify_anchor", name=log.name, entries=log.entries, value=log.hash[:16]),
        ),
        *((t("proof.signed_with_the_key"), signer) for signer in log.signers),
        *(((t("proof.not_whole"), log.trouble),) if log.trouble else ()),
    ]
    yield SheetTable(
        (SheetColumn("", 0.25), SheetColumn("", 0.75)), tuple(rows), t("proof.anchor_of_the_event_log"), LOG_PROVES
    )
