"""Faults as sites have them, put on a site that was right before. Each says what it did, in words for the trainer."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.bench.clocks import set_clock
from eager_lens.core.bench.parts import DEFAULT_PASSWORD, Unit
from eager_lens.core.bench.service import as_delivered
from eager_lens.core.bench.site import Site
from eager_lens.core.errors import RefusedInput
from eager_lens.core.virtual_site.commissioned import camera_cables

HOUR_S = 3600.0
SLOW_LINK_MBPS = 10.0
SLOW_START_S = 20.0
DRIFT_PPM = 4000.0
STRANGER = "stranger-"
FASTER = 2.0
"""A stream at other settings runs at so many times the planned frame rate, and sends so many times as much."""


class Fault(NamedTuple):
    """A fault: its name on the command line, what it is, and what brings it about."""

    name: str
    words: str
    put: Callable[[Site, Unit], str]


def _twin(site: Site, unit: Unit) -> str:
    others = [one for one in site.units.values() if one.role == "camera" and one is not unit and one.sides[0].address]
    near = [one for one in others if one.sides[0].subnet == unit.sides[0].subnet] or others
    if not near:
        raise RefusedInput("fault", f"{unit.name} has no other camera whose address it could take")
    unit.sides[0].address = near[0].sides[0].address
    return f"{unit.name} holds {address_text(unit.sides[0].address)}, the address of {near[0].name}"


def _out_of_box(site: Site, unit: Unit) -> str:
    as_delivered(unit)
    return f"{unit.name} is as it came out of its box, at {address_text(unit.sides[0].address)}"


def _wrong_subnet(site: Site, unit: Unit) -> str:
    side = unit.sides[0]
    shift = 1 << (32 - side.prefix)
    side.address ^= shift
    side.gateway = side.gateway ^ shift if side.gateway else (side.address & ~(shift - 1)) | 1
    return f"{unit.name} is at {address_text(side.address)}, one subnet beside its own"


def _other_password(site: Site, unit: Unit) -> str:
    unit.access.password = unit.access.open_password = f"other:{unit.id}"
    return f"{unit.name} has another password than the one that is noted"


def _default_password(site: Site, unit: Unit) -> str:
    unit.access.password = unit.access.open_password = DEFAULT_PASSWORD
    return f"{unit.name} still has its default password"


def _protocol_off(site: Site, unit: Unit) -> str:
    unit.access.open_on = False
    return f"the open protocol of {unit.name} is off: no stream, no answer to a search"


def _slow_start(site: Site, unit: Unit) -> str:
    unit.phase, unit.ready_s = "starting", site.now_s + SLOW_START_S
    site.clockwork.after(SLOW_START_S, unit.id, "started", unit.boots)
    site.changed(unit, wiring=False)
    return f"{unit.name} answers after {SLOW_START_S:.0f} s only"


def _frozen_lease(site: Site, unit: Unit) -> str:
    stranger_id = f"{STRANGER}{unit.id}"
    stranger = Unit(
        stranger_id,
        "A telephone",
        "phone",
        f"06:{unit.mac_address[3:]}",
        "",
        unit.profile,
        unit.chance,
        phase="running",
    )
    stranger.sides[0].address, stranger.sides[0].prefix = unit.sides[0].address, unit.sides[0].prefix
    stranger.host = next((cable.far_end(unit.id)[0] for cable in camera_cables(site, unit)), "")
    stranger.access.is_set_up = True
    site.units[stranger_id] = stranger
    site.guest_came()
    site.changed()
    return f"the router leased {address_text(unit.sides[0].address)} to a telephone; {unit.name} has it as well"


def _other_settings(site: Site, unit: Unit) -> str:
    stream = unit.stream
    if stream is None:
        raise RefusedInput("fault", f"{unit.name} sends no stream")
    stream.fps, stream.rate_mbps, stream.peak_mbps = (
        stream.fps * FASTER,
        stream.rate_mbps * FASTER,
        stream.peak_mbps * FASTER,
    )
    return f"{unit.name} sends {stream.fps:g} fps instead of {stream.fps / FASTER:g}"


def _clock_hour(site: Site, unit: Unit) -> str:
    unit.clock.server = 0
    set_clock(site, unit, HOUR_S)
    return f"the clock of {unit.name} is an hour ahead, and asks nobody"


def _clock_drift(site: Site, unit: Unit) -> str:
    unit.clock.server, unit.clock.drift_ppm = 0, DRIFT_PPM
    return f"the clock of {unit.name} gains {DRIFT_PPM * 3600 / 1e6:.0f} s an hour, and asks nobody"


def _unplugged(site: Site, unit: Unit) -> str:
    cables = camera_cables(site, unit)
    if not cables:
        raise RefusedInput("fault", f"{unit.name} has no cable that could be pulled")
    for cable in cables:
        cable.plugged = False
    site.changed()
    site.settle()
    return f"the cable of {unit.name} is pulled"


def _slow_link(site: Site, unit: Unit) -> str:
    for cable in camera_cables(site, unit):
        cable.mbps = SLOW_LINK_MBPS
    return f"the link of {unit.name} came up at {SLOW_LINK_MBPS:g} Mb/s: a pair of its cable is open"


FAULTS: dict[str, Fault] = {
    fault.name: fault
    for fault in (
        Fault("twin", "holds the address of another camera", _twin),
        Fault("out-of-box", "not set up yet, at its default address", _out_of_box),
        Fault("wrong-subnet", "in the subnet beside its own", _wrong_subnet),
        Fault("wrong-password", "has another password than noted", _other_password),
        Fault("default-password", "still has its default password", _default_password),
        Fault("protocol-off", "its open protocol is off", _protocol_off),
        Fault("slow-start", "takes long until it answers", _slow_start),
        Fault("frozen-lease", "its address was leased to a telephone too", _frozen_lease),
        Fault("other-settings", "sends twice the planned frame rate", _other_settings),
        Fault("clock-hour", "its clock is an hour off", _clock_hour),
        Fault("clock-drift", "its clock runs off", _clock_drift),
        Fault("unplugged", "its cable is pulled", _unplugged),
        Fault("slow-link", "its link came up at 10 Mb/s", _slow_link),
    )
}
"""All faults by name, in the order in which they are listed."""


def named_device(site: Site, text: str) -> Unit:
    """A device by its id, its name, or a part of its name that no other has.

    Raises:
        RefusedInput: when there is none, or more than one.
    """
    if text in site.units:
        return site.units[text]
    wanted = text.strip().lower()
    units = [unit for unit in site.units.values() if unit.device is not None]
    found = [unit for unit in units if unit.name.lower() == wanted] or [
        unit for unit in units if wanted and wanted in unit.name.lower()
    ]
    if len(found) == 1:
        return found[0]
    if not found:
        raise RefusedInput("device", f"no device of the job is called {text!r}")
    raise RefusedInput("device", f"{text!r} may be {', '.join(unit.name for unit in found[:4])}; write its whole name")


def put_faults(site: Site, wanted: Sequence[str]) -> tuple[str, ...]:
    """Put faults, each written as ``NAME=DEVICE``; what each did, in words.

    Raises:
        RefusedInput: for a fault or device that there is not, or that does not go together.
    """
    done = []
    for text in wanted:
        name, _, device = text.partition("=")
        fault = FAULTS.get(name.strip())
        if fault is None:
            raise RefusedInput("fault", f"{name!r} is no fault; there are {', '.join(FAULTS)}")
        done.append(fault.put(site, named_device(site, device)))
    return tuple(done)
