"""What the simulated site itself says of a job before a plan is made: who stays dark, and who hears whom."""

from __future__ import annotations

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.simulation.build import LAPTOP, site_of
from eager_lens.core.simulation.site import Site


def dark_when_all_is_in(assessment: Assessment) -> dict[str, str]:
    """By unit that stays dark when every lead and cable is in: why."""
    site = site_of(assessment, Rehearsal())
    power_up(site)
    return {unit.id: unit.feeding.why_dark for unit in site.units.values() if not unit.is_lit}


def power_up(site: Site) -> None:
    """Put every lead and cable in, and let all start. What feeds others has to run first: a supply, then a switch, then what
    hangs on its ports."""
    for unit in site.units.values():
        unit.feeding.lead_in = True
    for cable in site.cables.values():
        cable.plugged = True
    site.changed()
    site.settle()
    site.run_to(max((unit.profile.start_s for unit in site.units.values()), default=0.0) * 3 + 1)


def all_lit(assessment: Assessment) -> Site:
    """The site with everything running and plugged in, and no radio set up: what one place reaches by cable."""
    site = site_of(assessment, Rehearsal())
    for unit in site.units.values():
        unit.phase = "running"
    for cable in site.cables.values():
        cable.plugged = True
    del site.units[LAPTOP]
    return site


def associate(site: Site, a: str, b: str) -> None:
    """Set both ends of a radio path up to fit."""
    for unit_id, end in ((a, "client"), (b, "access point")):
        antenna = site.units[unit_id].antenna
        if antenna is not None:
            antenna.end = "access point" if end == "access point" else "client"
            antenna.network, antenna.key, antenna.spare_db = "joined", "joined", None
