"""A simulated site with faults, seen at one camera: for trials of the fault finder, and for practice."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from random import Random
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import RefusedInput
from eager_lens.core.fault_finder.for_job import traits_of_fault
from eager_lens.core.fault_finder.site_view import SiteView, look_again
from eager_lens.core.fault_finder.symptoms import SHARED_FAULTS, symptoms_of
from eager_lens.core.job.model import Camera
from eager_lens.core.virtual_site.commissioned import commissioned
from eager_lens.core.virtual_site.faults import FAULTS

SETTLED_S, AFTER_S, DRIFTED_S = 200.0, 30.0, 7200.0
"""How long a site runs before the fault, and after it; a clock that runs off needs longer to be noticed."""


class InjectedFault(NamedTuple):
    """A site with faults, seen at one camera: what is seen of it, and which cameras show the same."""

    at: SiteView
    symptom: str
    down: tuple[str, ...]


def inject_faults(assessment: Assessment, camera: Camera, faults: Sequence[str], rng: Random) -> InjectedFault | None:
    """A site of the job with faults on one of its cameras; None where they would not show there: that camera is dark or
    faulty by the plan, a fault does not go with it, or nobody would notice."""
    site = commissioned(assessment)
    site.run_to(site.now_s + SETTLED_S)
    at = SiteView(site, site.units[camera.id], camera)
    traits = traits_of_fault(assessment, camera)
    at.plug_in()
    look_again(site)
    if not at.comes or symptoms_of(at, traits):
        return None
    for fault in faults:
        try:
            FAULTS[fault].put(site, at.unit)
        except RefusedInput:
            return None
    site.changed()
    site.settle()
    if "slow-start" not in faults:
        site.run_to(site.now_s + (DRIFTED_S if "clock-drift" in faults else AFTER_S))
    look_again(site)
    symptoms = symptoms_of(at, traits)
    if not symptoms:
        return None
    shared = len(faults) == 1 and faults[0] in SHARED_FAULTS
    return InjectedFault(at, rng.choice(symptoms), tuple(_down(assessment, at)) if shared else ())


def _down(assessment: Assessment, at: SiteView) -> Iterator[str]:
    """The cameras whose picture does not come."""
    for camera in assessment.job.cameras:
        if camera.registered and not SiteView(at.site, at.site.units[camera.id], camera).comes:
            yield camera.id
