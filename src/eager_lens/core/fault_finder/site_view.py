"""One camera of the simulated site, as somebody with a laptop sees it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from eager_lens.core.addressing.ipv4 import address_number, subnet_around
from eager_lens.core.job.model import Camera, Recorder
from eager_lens.core.simulation.channels import SeenCamera, look, one_round
from eager_lens.core.simulation.copies import copy_of
from eager_lens.core.simulation.disturbance import Loss, losses
from eager_lens.core.simulation.parts import Cable, Entry, Side, Unit
from eager_lens.core.simulation.paths import path
from eager_lens.core.simulation.reach import Reached, reached
from eager_lens.core.simulation.segments import interface_of
from eager_lens.core.simulation.site import Site
from eager_lens.core.virtual_site.commissioned import camera_cables

OWN = "own:"
"""Before a unit's id, the password that was noted for it."""
STARTED_S = 400.0
"""After so long everything that was put right has started."""


@dataclass
class SiteView:
    """A camera and the site around it. The laptop is put into the camera's network by ``plug_in``.

    Attributes:
        site: with its faults. unit, camera: as it is there, as it is planned.
    """

    site: Site
    unit: Unit
    camera: Camera

    # ---- the plan around it -----------------------------------------------------------------------------------------

    @property
    def planned(self) -> int:
        """The planned address, as a number; 0 where there is none."""
        return address_number(self.camera.address) if self.camera.address else 0

    @property
    def recorder(self) -> Unit | None:
        """The recorder that it is registered on first."""
        found = (self.site.units[one.recorder] for one in self.camera.registered if one.recorder in self.site.units)
        return next(found, None)

    def planned_path(self) -> list[tuple[Cable, Unit]]:
        """The cables toward its recorder, each with the unit at its far end, whether they carry anything or not."""
        recorder = self.recorder
        if recorder is None:
            return []
        cables = path(self.site, self.unit, recorder, carrying=False)
        found, here_id = [], self.unit.id
        for cable in cables:
            here_id = cable.far_end(here_id)[0]
            found.append((cable, self.site.units[here_id]))
        return found

    @property
    def host(self) -> Unit | None:
        """What it is plugged into."""
        own = self.own_cables
        return self.site.units[own[0].far_end(self.unit.id)[0]] if own else None

    @property
    def own_cables(self) -> list[Cable]:
        """Its own cables, radio paths apart."""
        return camera_cables(self.site, self.unit)

    def plug_in(self) -> None:
        """Plug the laptop in as near to the recorder as is on the camera's side of any router, with a planned address."""
        laptop = self.site.laptop
        laptop.host, laptop.host_side = self._laptop_place()
        laptop.sides = [self._laptop_side() if self.planned else Side()]
        self.site.changed()
        self.site.settle()

    def _laptop_place(self) -> tuple[str, str]:
        path = self.planned_path()
        recorder = self.recorder
        if recorder is not None and path:
            within = []
            device = recorder.device
            assert isinstance(device, Recorder)
            routed = self.camera.subnet not in (device.subnet, device.camera_interface_subnet)
            for _, unit in path[:-1]:
                if unit.role == "router" and routed:
                    break
                within.append(unit)
            if within:
                return within[-1].id, ""
            cable = path[-1][0]
            return recorder.id, interface_of(recorder, cable.port_at(recorder.id), cable.id)[1]
        host = self.host
        return (host.id if host is not None else ""), ""

    def _laptop_side(self) -> Side:
        plan = next((one for one in self.site.job.subnets if one.id == self.camera.subnet), None)
        prefix = int(plan.cidr.partition("/")[2]) if plan is not None else 24
        net = subnet_around(self.planned, prefix)
        held = {address_number(one.address) for one in self.site.job.devices() if one.address}
        from_end = range(net.last_host, net.first_host - 1, -1)
        free = next((n for n in from_end if n not in held and not self.site.holding(n)), 0)
        if not free:
            return Side()  # a full subnet has no room for a laptop
        gateway = address_number(plan.gateway) if plan is not None and plan.gateway else 0
        return Side("", free, prefix, gateway)

    # ---- what is looked at ------------------------------------------------------------------------------------------

    def at_address(self) -> Reached:
        """Who answers the laptop at the planned address."""
        return reached(self.site, self.site.laptop, self.planned)

    def entry(self) -> tuple[Unit, Entry] | None:
        """Its recorder, and the entry there that was made for it."""
        for place in self.camera.registered:
            recorder = self.site.units.get(place.recorder)
            entry = recorder.entries.get(place.channel) if recorder is not None else None
            if recorder is not None and entry is not None and self._is_mine(entry):
                return recorder, entry
        return None

    def _is_mine(self, entry: Entry) -> bool:
        return (
            entry.address == self.planned or entry.password == f"{OWN}{self.unit.id}" or entry.name == self.camera.name
        )

    def seen(self) -> SeenCamera | None:
        """What its channel comes to now; None where it has none."""
        there = self.entry()
        if there is None:
            return None
        recorder, entry = there
        if not recorder.runs:
            return SeenCamera("silent", f"{recorder.name} does not run")
        taken_mbps = 0.0
        for number in sorted(recorder.entries):
            other = recorder.entries[number]
            if other is entry:
                break
            unit = self.site.units.get(other.from_unit)
            if unit is not None and unit.stream is not None and other.shown in ("receiving", "alternating"):
                taken_mbps += unit.stream.rate_mbps * unit.stream.times(self.site.is_dark_for(unit))
        return look(self.site, recorder, entry, taken_mbps)

    @property
    def comes(self) -> bool:
        """Whether its own picture comes to the recorder without a break."""
        seen = self.seen()
        return seen is not None and seen.status == "receiving" and seen.unit_id == self.unit.id

    def heard_at(self) -> int | None:
        """The address at which it answers a search by the laptop; None where it does not."""
        laptop = self.site.laptop
        for unit, side in self.site.heard(laptop, laptop.sides[0]):
            if unit is self.unit and (unit.access.open_on or not unit.access.is_set_up):
                return side.address
        return None

    def lost(self) -> list[Loss]:
        """What gets lost between it and the laptop."""
        host = self.site.units.get(self.site.laptop.host)
        if host is None or not self.site.is_disturbed:
            return []
        return losses(self.site, self.unit, host, self.recorder)

    @property
    def link_is_up(self) -> bool:
        """Whether the light at the far end of its cable is on."""
        host = self.host
        return host is not None and host.runs and self.unit.is_lit and any(one.plugged for one in self.own_cables)

    def tried(self, change: Callable[[SiteView], None]) -> SiteView:
        """How it would be after a change and the time to start, on a copy of the site."""
        site = copy_of(self.site)
        view = SiteView(site, site.units[self.unit.id], self.camera)
        change(view)
        site.changed()
        site.settle()
        site.run_to(site.now_s + STARTED_S)
        look_again(site)
        return view

    def in_the_dark(self, everywhere: bool) -> SiteView:
        """How it would be with a hand over its light sensor, or at night (``everywhere``)."""

        def darken(view: SiteView) -> None:
            units = view.site.units.values() if everywhere else (view.unit,)
            view.site.covered.update(unit.id for unit in units)

        return self.tried(darken)


def look_again(site: Site) -> None:
    """Have the recorders look at their channels twice: the second time they know who answers."""
    for recorder in site.recorders():
        for _ in range(2 if recorder.runs else 0):
            one_round(site, recorder, 0)
