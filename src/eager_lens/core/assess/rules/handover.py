"""Findings about proof and handover: checks that failed, and what the sheets still lack."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.proof import failed_tests
from eager_lens.core.assess.finding import FieldPlace, Finding, FindingKind, Severity, names_listed
from eager_lens.core.assess.incremental.kept import of_devices, reads
from eager_lens.core.reference.acceptance import SITE
from eager_lens.core.units import count

COVER = (
    ("customer", "the customer"),
    ("site", "the site"),
    ("prepared_by", "the installer"),
    ("contact", "a contact"),
)
"""Fields of the cover sheet that somebody will look for, in words."""


FAILED_CHECK = FindingKind("failed-check", "proof", colours="tests")


@reads("checks", *of_devices("name"))
def failed_checks(facts: Facts) -> Iterator[Finding]:
    """Checks that were made and failed."""
    failed = failed_tests(facts)
    if failed:
        devices = tuple(dict.fromkeys(device for device, _ in failed))
        names = ["the whole site" if device == SITE else facts.name(device) for device in devices]
        yield Finding(
            FAILED_CHECK,
            Severity.FAULT,
            f"{count(len(failed), 'acceptance test')} failed",
            f"Failed at {names_listed(names)}.",
            "Correct the cause and repeat the test. The failure stays on record.",
            tuple(device for device in devices if device != SITE),
        )


GONE_CHECK = FindingKind("removed-device-test", "proof")


@reads("checks", *of_devices("name"))
def gone_checks(facts: Facts) -> Iterator[Finding]:
    """Checks of devices that are no longer in the job."""
    gone = [check for check in facts.job.checks if check.device != SITE and check.device not in facts.by_device_id]
    if gone:
        yield Finding(
            GONE_CHECK,
            Severity.NOTE,
            f"{count(len(gone), 'test')} of removed devices",
            f"{names_listed(list(dict.fromkeys(check.device for check in gone)))}: these results no longer prove anything "
            "for this job.",
            "Test the devices that replaced them.",
            (),
        )


SHEET_GAPS = FindingKind("cover-gaps", "handover")


def sheet_gaps(facts: Facts) -> Iterator[Finding]:
    """Lines of the cover sheet that are still empty."""
    job = facts.job
    if not job.cameras:
        return
    gaps = [(name, words) for name, words in COVER if not getattr(job, name).strip()]
    if gaps:
        yield Finding(
            SHEET_GAPS,
            Severity.NOTE,
            f"The cover sheet lacks {names_listed([words for _, words in gaps], 4)}",
            "In a year the next technician needs to know whose system this is and whom to call.",
            "Fill it in on the Handover page.",
            set_at=FieldPlace("handover", gaps[0][0], "the cover sheet"),
        )


RULES = (failed_checks, gone_checks, sheet_gaps)
