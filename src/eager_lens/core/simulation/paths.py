"""The way from one unit to another over the cables of a simulated site."""

from __future__ import annotations

from eager_lens.core.simulation.parts import Cable, Unit
from eager_lens.core.simulation.segments import is_up
from eager_lens.core.simulation.site import Site


def path(site: Site, start: Unit, end: Unit, carrying: bool = True) -> list[Cable]:
    """The cables between two units from the first on, the fewest that carry something (or, not ``carrying``, that are there);
    empty where there is no path of such."""
    came: dict[str, Cable] = {}
    waiting = [end]
    while waiting:
        here = waiting.pop(0)
        if here is not end and not here.passes_on:
            continue
        for cable in site.cables_of(here):
            far_id = cable.far_end(here.id)[0]
            carries = not carrying or (is_up(cable, site.units) and not cable.is_apart)
            if far_id not in came and far_id != end.id and carries:
                came[far_id] = cable
                waiting.append(site.units[far_id])
    found = []
    here_id = start.id
    while here_id != end.id and here_id in came:
        found.append(came[here_id])
        here_id = came[here_id].far_end(here_id)[0]
    return found
