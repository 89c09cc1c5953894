"""Faults as sites have them, put on a site that was right before. Each says what it did, in words for the trainer."""

from __future__ import annotations

from collections.abc import Sequence

from eager_lens.core.errors import RefusedInput
from eager_lens.core.simulation.parts import Unit
from eager_lens.core.simulation.site import Site
from eager_lens.core.virtual_site.device_faults import DEVICE_FAULTS
from eager_lens.core.virtual_site.fault import Fault
from eager_lens.core.virtual_site.network_faults import NETWORK_FAULTS
from eager_lens.core.virtual_site.recorder_faults import RECORDER_FAULTS

FAULTS: dict[str, Fault] = {fault.name: fault for fault in (*DEVICE_FAULTS, *NETWORK_FAULTS, *RECORDER_FAULTS)}
"""All faults by name, in the order in which they are listed."""

NETWORK_SHOWS: dict[str, Fault] = {name: fault for name, fault in FAULTS.items() if fault.on_network}
"""Those that devices on a real network show."""


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


def inject_by_name(site: Site, wanted: Sequence[str]) -> tuple[str, ...]:
    """Put faults, each written as ``NAME=DEVICE``; what each did, in words.

    Raises:
        RefusedInput: for a fault or device that there is not, or that does not go together.
    """
    done = []
    for text in wanted:
        name, _, device = text.partition("=")
        fault = NETWORK_SHOWS.get(name.strip())
        if fault is None:
            raise RefusedInput("fault", f"{name!r} is no fault; there are {', '.join(NETWORK_SHOWS)}")
        done.append(fault.put(site, named_device(site, device)))
    return tuple(done)
