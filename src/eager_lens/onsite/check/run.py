"""A check of the site from its first probe to its last stream; what is read is told as it comes.

To be run by ``core.apart``: it takes plain values, and yields pairs of what they are and their values.
"""

from __future__ import annotations

from collections.abc import Generator
from typing import Any

from eager_lens.core.errors import RefusedInput
from eager_lens.onsite.namespaces import NotAllowed, enter

# Being put into another network comes first; what loads threads is imported after that.

Report = tuple[str, Any]


def go_to(here: dict[str, Any]) -> None:
    """Go to the network of a site of stand-ins, where one is meant and it has one.

    Raises:
        RefusedInput: when it is gone. Nothing may be sent then: it would go to what is really on this network.
    """
    if not here or here["mode"] != "namespaces":
        return
    try:
        enter(int(here["pid"]), int(here["network"]))
    except NotAllowed as error:
        raise RefusedInput("", f"the site of stand-ins has ended ({error.strerror}); nothing was sent") from error


def checking(
    job_text: str, switches: dict[str, Any], passwords: dict[str, str], here: dict[str, Any], *, step: Any = None
) -> Generator[Report, None, None]:
    """Check the site of a job.

    Args:
        job_text: the job, as in its file. switches: as in ``Switches``. passwords: by device id.
        here: empty for the network that this computer is in; for a site of stand-ins its note (``SiteHere``).

    Yields:
        ("laptop", its addresses and whether it hears ARP), ("heard", Heard as a dict), ("read", DeviceRead as a dict),
        ("share", done of 1), ("run", CheckRun as a dict) last.
    """
    go_to(here)
    from eager_lens.onsite.check.visit import visiting

    yield from visiting(job_text, switches, passwords, here)


def seen_from_here(here: dict[str, Any], *, step: Any = None) -> list[tuple[str, int, int]]:
    """The interfaces that a check would go out from: name, address, prefix."""
    go_to(here)
    from eager_lens.onsite.check.laptop import interfaces

    return [tuple(one) for one in interfaces()]  # type: ignore[misc]
