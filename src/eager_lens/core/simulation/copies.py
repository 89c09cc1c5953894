"""A copy of a simulated site, to see what would come of something without its happening."""

from __future__ import annotations

from copy import deepcopy

from eager_lens.core.simulation.site import Site


def copy_of(site: Site) -> Site:
    """A site as this one is now. The plans of its devices, which nothing on a site changes, are shared."""
    kept: dict[int, object] = {id(site.job): site.job, id(site.rehearsal): site.rehearsal}
    for unit in site.units.values():
        kept[id(unit.device)] = unit.device
        kept[id(unit.profile)] = unit.profile
    return deepcopy(site, kept)
