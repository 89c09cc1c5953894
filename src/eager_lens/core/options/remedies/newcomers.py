"""Which of several on one address came last: who was just given it is given another, not who had it all along."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from itertools import islice

from eager_lens.core.assess.codes import Code
from eager_lens.core.assess.finding import Finding, names_listed
from eager_lens.core.assess.rules.addressing import plan_for
from eager_lens.core.job.model import Job

STEPS_BACK = 20
"""So many steps are looked back; what two have shared for longer nobody has just typed."""


def newcomers(job: Job, past: Iterable[Job], ids: Iterable[str]) -> frozenset[str]:
    """Those of some devices whose address was another one before the last of their changes, or that were not there.

    Args:
        past: earlier states of the job, the latest first.
    """
    asked = frozenset(ids)
    now = {device.id: device.address for device in job.devices() if device.id in asked}
    for before in islice(past, STEPS_BACK):
        if all(getattr(before, name) is getattr(job, name) for name in ("cameras", "recorders", "network")):
            continue
        had = {device.id: device.address for device in before.devices() if device.id in asked}
        changed = frozenset(one for one in asked if had.get(one) != now.get(one))
        if changed:
            return changed
    return frozenset()


def told_by_history(finding: Finding, job: Job, past: Iterable[Job]) -> Finding:
    """The finding of a shared address with the newcomer as the one to change; any other as it is."""
    if finding.code is not Code.DUPLICATE_ADDRESS:
        return finding
    later = newcomers(job, past, finding.subjects)
    if not later or len(later) == len(finding.subjects):
        return finding
    names = {device.id: device.name for device in job.devices()}
    new, old = ([names[one] for one in finding.subjects if (one in later) is is_new] for is_new in (True, False))
    return replace(
        finding,
        action=f"{names_listed(old)} had it before; plan another for {names_listed(new)}.",
        fix=plan_for(later, f"Give {names_listed(new)} another address"),
    )
