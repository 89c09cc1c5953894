"""When a step of the commissioning counts as done on a simulated site: each tells what is still wrong, or nothing."""

from __future__ import annotations

from collections.abc import Callable

from eager_lens.core.addressing.ipv4 import address_number, address_text
from eager_lens.core.assess.limits import CLOCK_WITHIN_S
from eager_lens.core.simulation.clocks import shown_apart_s
from eager_lens.core.simulation.parts import NEVER_ASKED, NOT_ASKED
from eager_lens.core.simulation.site import ROUND_S, Site

Check = Callable[[Site], str]


def is_there(unit_id: str, site: Site) -> str:
    """The device is on the site, where nothing would show more: the step counts as done once what comes before it is.

    Raises:
        NotOnSite: when it is not.
    """
    site.units[unit_id]  # raises for a device that is not there
    return ""


def runs(unit_id: str, site: Site) -> str:
    """The device runs."""
    unit = site.units[unit_id]
    return (
        ""
        if unit.runs
        else f"{unit.name} does not run yet{': ' if unit.feeding.why_dark else ''}{unit.feeding.why_dark}"
    )


def is_set_up(unit_id: str, site: Site) -> str:
    """The device has had its first-use set-up."""
    unit = site.units[unit_id]
    if unit.access.is_set_up:
        return ""
    why_dark = runs(unit_id, site)
    return (
        f"{unit.name} is not set up{'' if not why_dark else ', since it does not run'}{_reason(unit.feeding.why_dark)}"
    )


def _reason(why_dark: str) -> str:
    return f": {why_dark}" if why_dark else ""


def has_address(unit_id: str, address: str, site: Site) -> str:
    """The device is set up and has its planned address."""
    unit = site.units[unit_id]
    if not unit.access.is_set_up:
        return f"{unit.name} is not set up"
    number = unit.sides[0].address
    return "" if number == address_number(address) else f"{unit.name} is at {address_text(number)}, not at {address}"


def laptop_is_at(host_id: str, addresses: tuple[str, ...], site: Site) -> str:
    """The laptop is plugged in there, and has these addresses (with their sizes)."""
    if site.laptop.host != host_id:
        return f"the laptop is not plugged into {site.units[host_id].name}"
    has = {f"{address_text(side.address)}/{side.prefix}" for side in site.laptop.sides}
    missing = [one for one in addresses if one not in has]
    return f"the laptop has no {missing[0]}" if missing else ""


def reserves(router_id: str, hardware: tuple[str, ...], site: Site) -> str:
    """The router reserves an address for each of these MAC addresses."""
    reserved = site.servers[router_id].reserved
    missing = [one for one in hardware if one not in reserved]
    return f"{site.units[router_id].name} has no reservation for {missing[0]}" if missing else ""


def is_updated(unit_id: str, site: Site) -> str:
    """The device runs with the firmware that it should have."""
    unit = site.units[unit_id]
    if unit.firmware != unit.profile.firmware_now:
        return f"{unit.name} is at firmware {unit.firmware or 'damaged'}, not {unit.profile.firmware_now}"
    return runs(unit_id, site)


def settings_made(unit_id: str, server: str, needs_open: bool, site: Site) -> str:
    """The device asks the planned time server and shows the right time; its open protocol is on where it is needed."""
    unit = site.units[unit_id]
    if server and unit.clock.server != address_number(server):
        return f"{unit.name} does not ask {server} for the time"
    if needs_open and not (unit.access.open_on and (unit.access.open_password or not unit.profile.open_user_own)):
        return f"the open protocol of {unit.name} is off, or has no user"
    off_s = shown_apart_s(site, unit)
    return "" if abs(off_s) <= CLOCK_WITHIN_S else f"the clock of {unit.name} is {abs(off_s):.0f} s off"


def receives(recorder_id: str, camera_id: str, site: Site) -> str:
    """The recorder receives this very camera."""
    recorder, camera = site.units[recorder_id], site.units[camera_id]
    for number, entry in recorder.entries.items():
        if entry.from_unit == camera_id and entry.shown == "receiving":
            return ""
        if entry.address in {side.address for side in camera.sides}:
            return f"{recorder.name}, channel {number}: {entry.shown}{': ' if entry.why else ''}{entry.why}"
    return f"{recorder.name} does not receive {camera.name}"


# ---- what goes on by itself ----------------------------------------------------------------------------------------


def starts_for(unit_id: str, site: Site) -> float:
    """Seconds until a device that starts or updates is ready."""
    unit = site.units[unit_id]
    return max(0.1, unit.ready_s - site.now_s) if unit.phase in ("starting", "updating") else 0.0


def asks_time_for(unit_id: str, site: Site) -> float:
    """Seconds until a device that was told its time server has asked it for the first time."""
    clock = site.units[unit_id].clock
    return 2.0 if clock.server and clock.last_ok_s == NEVER_ASKED else 0.0


def looks_for(recorder_id: str, address: str, site: Site) -> float:
    """Seconds until a recorder has looked at a channel that was added."""
    entries = site.units[recorder_id].entries.values()
    added = any(entry.address == address_number(address) and entry.why == NOT_ASKED for entry in entries)
    return ROUND_S if added else 0.0


def asks_lease_for(unit_id: str, site: Site) -> float:
    """Seconds until a device that was told to lease has its address."""
    unit = site.units[unit_id]
    side = unit.sides[0]
    return 2.5 if unit.access.is_set_up and side.assignment == "lease" and not side.address else 0.0
