"""Which of several on one address came last: who was just given it is given another, not who had it all along."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from itertools import islice

from eager_lens.core.assess.finding import Finding, names_listed
from eager_lens.core.assess.rules.addressing import DUPLICATE_ADDRESS, plan_for
from eager_lens.core.job.model import Device, Job

LISTS = ("cameras", "recorders", "network")

STEPS_BACK = 20
"""So many steps are looked back; what two have shared for longer nobody has just typed."""


Place = tuple[str, int]
"""Where a device stands in a job: the list's name and its place there."""


def told_by_history(findings: Sequence[Finding], job: Job, past: Iterable[Job]) -> list[Finding]:
    """Findings, those of shared addresses with the newcomer as the one to change.

    Args:
        past: earlier states of the job, the latest first.
    """
    asked = {one for finding in findings if finding.kind == DUPLICATE_ADDRESS for one in finding.subjects}
    if not asked:
        return list(findings)
    # Found once: at each edit, one pass over a large job is what this may cost.
    places: dict[str, Place] = {
        device.id: (name, at) for name in LISTS for at, device in enumerate(getattr(job, name)) if device.id in asked
    }
    steps = tuple(islice(past, STEPS_BACK))
    return [
        _with_newcomers(finding, job, steps, places) if finding.kind == DUPLICATE_ADDRESS else finding
        for finding in findings
    ]


def _with_newcomers(finding: Finding, job: Job, steps: Sequence[Job], places: dict[str, Place]) -> Finding:
    later = _newcomers(job, steps, {one: places[one] for one in finding.subjects})
    if not later or len(later) == len(finding.subjects):
        return finding
    names = {one: getattr(job, places[one][0])[places[one][1]].name for one in finding.subjects}
    new, old = ([names[one] for one in finding.subjects if (one in later) is is_new] for is_new in (True, False))
    return replace(
        finding,
        action=f"{names_listed(old)} had it first; plan a new address for {names_listed(new)}.",
        fix=plan_for(later, f"Plan a new address for {names_listed(new)}"),
    )


def _newcomers(job: Job, steps: Sequence[Job], places: dict[str, Place]) -> frozenset[str]:
    """Those of some devices whose address was another one before the last of their changes, or that were not there."""
    now = {one: _address_in(job, one, place) for one, place in places.items()}
    for before in steps:
        changed = frozenset(one for one, place in places.items() if _address_in(before, one, place) != now[one])
        if changed:
            return changed
    return frozenset()


def _address_in(job: Job, device_id: str, place: Place) -> str | None:
    """A device's address in another state of the job, mostly at the same place there; None where it is not there."""
    name, at = place
    devices: Sequence[Device] = getattr(job, name)
    if at < len(devices) and devices[at].id == device_id:
        return devices[at].address
    return next((one.address for one in devices if one.id == device_id), None)
