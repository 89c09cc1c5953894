"""A commissioning over the network in a process of its own: looking at what is there, and setting it.

To be run by ``core.subprocess_reader``: it takes plain values, and yields pairs of what they are and their values.
"""

from __future__ import annotations

from collections.abc import Generator
from typing import Any

from eager_lens.onsite.check.run import go_to

# Being put into another network comes first; what loads threads is imported after that.

Report = tuple[str, Any]


def looking(
    job_text: str,
    switches: dict[str, Any],
    passwords: dict[str, str],
    here: dict[str, Any],
    may_ask: bool,
    *,
    step: Any = None,
) -> Generator[Report, None, None]:
    """Look at the devices of a job where they are now, also at the default addresses of their makes; nothing is set.

    Args:
        switches: as in ``Switches``. passwords: by device id. here: the note of a site of stand-ins; empty for this network.
        may_ask: whether somebody may be asked for the right to pin addresses.

    Yields:
        As a check of the site does; ("pins", whether addresses can be pinned) first.
    """
    go_to(here)
    from eager_lens.onsite.check.visit import visiting

    yield from visiting(job_text, switches, passwords, here, may_pin=True, may_ask=may_ask)


def setting(
    job_text: str,
    plan: dict[str, Any],
    passwords: dict[str, str],
    here: dict[str, Any],
    places: dict[str, Any],
    *,
    step: Any = None,
) -> Generator[Report, None, None]:
    """Carry a plan out.

    Args:
        plan: as in ``SetPlan``. places: ledger and stop (paths), may_ask, puts_back.

    Yields:
        ("device", its id) as one is begun, ("line", ActLine as a dict), ("share", done of 1).
    """
    go_to(here)
    from eager_lens.onsite.commission.work import carrying_out

    yield from carrying_out(job_text, plan, passwords, here, places)
