"""Faults of what a camera hangs on: cables, ports, power, switches, radio, routers."""

from __future__ import annotations

from eager_lens.core.errors import RefusedInput
from eager_lens.core.simulation.parts import Cable, Unit
from eager_lens.core.simulation.paths import path
from eager_lens.core.simulation.power import gives_power
from eager_lens.core.simulation.site import Site
from eager_lens.core.virtual_site.commissioned import camera_cables
from eager_lens.core.virtual_site.fault import Fault

SLOW_LINK_MBPS = 10.0
NARROW_SHARE = 0.7
"""A link that is too small carries so much of what passes it at its peaks."""
WEAK_SPARE_DB = 2.0
INFRARED_SHARE = 0.6
"""What infrared takes on top of the power by day, where it breaks a budget (made up)."""


def recorder_of_unit(site: Site, unit: Unit) -> Unit:
    """The recorder that a camera is registered on first.

    Raises:
        RefusedInput: it is registered nowhere.
    """
    for place in getattr(unit.device, "registered", ()):
        if place.recorder in site.units:
            return site.units[place.recorder]
    raise RefusedInput("fault", f"{unit.name} is registered nowhere")


def _host(site: Site, unit: Unit) -> tuple[Unit, int]:
    """What a camera is plugged into, and the port there."""
    cables = camera_cables(site, unit)
    if not cables:
        raise RefusedInput("fault", f"{unit.name} has no cable")
    host_id, port = cables[0].far_end(unit.id)
    return site.units[host_id], port


def _giver(site: Site, unit: Unit) -> tuple[Unit, int]:
    """What feeds a camera over its cable, and the port there."""
    host, port = _host(site, unit)
    if unit.feeding.lead != "cable" or not gives_power(host, port):
        raise RefusedInput("fault", f"{unit.name} takes no power from a port")
    return host, port


def _switch(site: Site, unit: Unit) -> Unit:
    host, _ = _host(site, unit)
    if host.role != "switch":
        raise RefusedInput("fault", f"{unit.name} is plugged into no switch")
    return host


def _uplinks(site: Site, unit: Unit) -> list[Cable]:
    """The cables between a camera's switch and its recorder, from the switch on."""
    own = {cable.id for cable in camera_cables(site, unit)}
    found = [cable for cable in path(site, unit, recorder_of_unit(site, unit)) if cable.id not in own]
    if not found:
        raise RefusedInput("fault", f"between {unit.name} and its recorder there is no uplink")
    return found


def _again(site: Site) -> None:
    site.changed()
    site.settle()


def _unplugged(site: Site, unit: Unit) -> str:
    cables = camera_cables(site, unit)
    if not cables:
        raise RefusedInput("fault", f"{unit.name} has no cable that could be pulled")
    for cable in cables:
        cable.plugged = False
    _again(site)
    return f"the cable of {unit.name} is pulled"


def _slow_link(site: Site, unit: Unit) -> str:
    for cable in camera_cables(site, unit):
        cable.mbps = SLOW_LINK_MBPS
    return f"the link of {unit.name} came up at {SLOW_LINK_MBPS:g} Mb/s: a pair of its cable is open"


def _wet_plug(site: Site, unit: Unit) -> str:
    cables = camera_cables(site, unit)
    if not cables or not getattr(unit.device, "outdoor", False):
        raise RefusedInput("fault", f"{unit.name} hangs indoors, or on no cable")
    for cable in cables:
        cable.is_wet = True
    site.rains = site.is_disturbed = True
    return f"water stands in a plug of {unit.name}, and it rains"


def _port_off(site: Site, unit: Unit) -> str:
    host, port = _giver(site, unit)
    host.feeding.ports_off.add(port)
    _again(site)
    return f"port {port} of {host.name} gives no power"


def _budget(site: Site, unit: Unit) -> str:
    host, port = _giver(site, unit)
    before = sum(one.feeding.draw_w for number, one in _fed(site, host) if number < port)
    host.feeding.budget_w = before + unit.feeding.draw_w / 2
    _again(site)
    return f"{host.name} has {host.feeding.budget_w:.0f} W to give, which are used up before port {port}"


def _night_budget(site: Site, unit: Unit) -> str:
    host, _ = _giver(site, unit)
    fed = _fed(site, host)
    for _, one in fed:
        one.feeding.infrared_w = INFRARED_SHARE * one.feeding.draw_w
    host.feeding.budget_w = sum(one.feeding.draw_w for _, one in fed) * (1 + INFRARED_SHARE / 4)
    site.event_queue.after(site.until_dusk_or_dawn_s(), unit.id, "dusk or dawn")
    _again(site)
    return f"{host.name} has {host.feeding.budget_w:.0f} W to give, enough by day; infrared takes more"


def _fed(site: Site, host: Unit) -> list[tuple[int, Unit]]:
    """What a device feeds over its ports, by port."""
    found = [(cable.port_at(host.id), site.units[cable.far_end(host.id)[0]]) for cable in site.cables_of(host)]
    return sorted(((port, one) for port, one in found if one.feeding.source == host.id), key=lambda pair: pair[0])


def _supply_off(site: Site, unit: Unit) -> str:
    supply = site.units.get(unit.feeding.unit_id) if unit.feeding.lead == "unit" else None
    if supply is None:
        raise RefusedInput("fault", f"{unit.name} is fed by no supply or injector")
    supply.feeding.lead_in = False
    _again(site)
    return f"{supply.name} has no mains"


def _switch_off(site: Site, unit: Unit) -> str:
    switch = _switch(site, unit)
    switch.feeding.lead_in = False
    if switch.feeding.lead != "mains":
        raise RefusedInput("fault", f"{switch.name} has no mains lead of its own")
    _again(site)
    return f"the mains lead of {switch.name} is out"


def _uplink_out(site: Site, unit: Unit) -> str:
    cable = _uplinks(site, unit)[0]
    if cable.medium == "radio":
        raise RefusedInput("fault", "a radio link cannot be pulled")
    cable.plugged = False
    _again(site)
    return f"the cable between {site.units[cable.a].name} and {site.units[cable.b].name} is out"


def _uplink_narrow(site: Site, unit: Unit) -> str:
    recorder = recorder_of_unit(site, unit)
    cable = _uplinks(site, unit)[0]
    cameras = [site.units[one.from_unit] for one in recorder.entries.values() if one.from_unit in site.units]
    passing = [one for one in cameras if cable in path(site, one, recorder)]
    cable.mbps = NARROW_SHARE * sum(one.stream.peak_mbps for one in passing if one.stream is not None)
    site.is_disturbed = True
    return f"the link between {site.units[cable.a].name} and {site.units[cable.b].name} carries {cable.mbps:.1f} Mb/s"


def _weak_radio(site: Site, unit: Unit) -> str:
    for cable in path(site, unit, recorder_of_unit(site, unit)):
        if cable.medium == "radio":
            for end in (cable.a, cable.b):
                antenna = site.units[end].antenna
                if antenna is not None:
                    antenna.spare_db = WEAK_SPARE_DB
            site.is_disturbed = True
            _again(site)
            return f"the radio link of {site.units[cable.a].name} and {site.units[cable.b].name} has one bar of signal"
    raise RefusedInput("fault", f"no radio link is on the way of {unit.name}")


def _other_vlan(site: Site, unit: Unit) -> str:
    switch = _switch(site, unit)
    for cable in camera_cables(site, unit):
        cable.is_apart = True
    _again(site)
    return f"the port of {unit.name} at {switch.name} is in another VLAN"


def _loop(site: Site, unit: Unit) -> str:
    first = next(
        (one for one in _uplinks(site, unit) if {site.units[one.a].role, site.units[one.b].role} == {"switch"}), None
    )
    if first is None:
        raise RefusedInput("fault", f"on the way of {unit.name} no two switches are joined")
    name = f"loop-{first.id}"
    site.cables[name] = Cable(name, first.a, 0, first.b, 0, "copper", first.mbps)
    site.forget_cables()
    site.is_disturbed = True
    _again(site)
    return f"a second cable joins {site.units[first.a].name} and {site.units[first.b].name}"


def _long_reach(site: Site, unit: Unit) -> str:
    cables = [cable for cable in camera_cables(site, unit) if cable.long_reach]
    if not cables or unit.stream is None:
        raise RefusedInput("fault", f"{unit.name} is on no long-reach port")
    for cable in cables:
        unit.stream.peak_mbps = max(unit.stream.peak_mbps, 1.5 * cable.mbps)
    return f"{unit.name} peaks at {unit.stream.peak_mbps:.1f} Mb/s, its long-reach port carries {cables[0].mbps:g}"


NETWORK_FAULTS = (
    Fault("unplugged", "its cable is pulled", _unplugged),
    Fault("slow-link", "its link came up at 10 Mb/s", _slow_link),
    Fault("wet-plug", "water stands in its plug", _wet_plug, on_network=False),
    Fault("port-off", "its port gives no power", _port_off),
    Fault("budget", "its switch has too little power", _budget),
    Fault("night-budget", "its switch has too little power in the dark", _night_budget, on_network=False),
    Fault("supply-off", "its supply is off", _supply_off),
    Fault("switch-off", "its switch is off", _switch_off),
    Fault("other-vlan", "its port is in another VLAN", _other_vlan),
    Fault("uplink-out", "the uplink of its switch is out", _uplink_out),
    Fault("uplink-narrow", "the uplink of its switch is too small", _uplink_narrow, on_network=False),
    Fault("loop", "a loop floods its network", _loop, on_network=False),
    Fault("weak-radio", "the radio link on its way is weak", _weak_radio, on_network=False),
    Fault("long-reach-slow", "its long-reach port is too slow", _long_reach, on_network=False),
)
