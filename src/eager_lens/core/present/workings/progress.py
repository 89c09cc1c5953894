"""Workings of what is registered, addressed and checked."""

from collections import Counter

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.proof import progress, site_tests, tests_on
from eager_lens.core.assess.rules.registering import has_no_recorder
from eager_lens.core.job.proving import latest_checks
from eager_lens.core.present.workings.base import Working, WorkingLine
from eager_lens.core.reference.acceptance import ACCEPTANCE_TESTS


def channels(recorder_id: str, assessment: Assessment) -> Working:
    """Cameras registered, on one recorder or all."""
    facts = assessment.facts
    recorders = [facts.recorders[recorder_id]] if recorder_id else list(facts.job.recorders)
    lines = [WorkingLine(r.name, f"{len(facts.cameras_on[r.id])} of {r.channels} channels", "plan") for r in recorders]
    without = len(facts.having(has_no_recorder))
    lines.append(WorkingLine("cameras without a recorder", str(without), "plan"))
    value = f"{len(facts.job.cameras) - without} of {len(facts.job.cameras)} cameras"
    return Working("Registered", value, "cameras with a recorder and a channel", tuple(lines), "the plan")


def addresses(_: str, assessment: Assessment) -> Working:
    """Addresses given, and what is wrong with them."""
    facts = assessment.facts
    without, managed = len(facts.without_address), sum(device.wants_address for device in facts.devices)
    lines = [
        WorkingLine("devices that need one", str(managed), "plan"),
        WorkingLine("with an address", str(managed - without), "plan"),
        *(
            WorkingLine(finding.title, finding.severity.word, "calculated")
            for finding in assessment.of_stage("addresses")[:12]
        ),
    ]
    return Working(
        "Addresses",
        f"{managed - without} of {managed} planned",
        "each address is compared with its subnet, the DHCP pool and all other devices",
        tuple(lines),
        "network, broadcast and gateway addresses and the DHCP pool are not planned for devices",
    )


def steps(_: str, assessment: Assessment) -> Working:
    """Checks made."""
    facts = assessment.facts
    done, total = progress(facts)
    needed = Counter(test.id for test in site_tests(facts))
    for device in facts.devices:
        needed.update(test.id for test in tests_on(facts, device))
    made = Counter(test_id for _, test_id in latest_checks(assessment.job))
    lines = tuple(
        WorkingLine(test.label, f"{made[test.id]} made of {needed[test.id]}", "measured")
        for test in ACCEPTANCE_TESTS
        if needed[test.id]
    )
    return Working(
        "Tests passed", f"{done} of {total}", "acceptance tests passed, of all that the job needs", lines, "Proof"
    )
