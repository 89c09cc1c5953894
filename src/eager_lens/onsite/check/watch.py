"""Waiting until a device answers: a connection to its page every so often, in a process of its own."""

from __future__ import annotations

import asyncio
import itertools
import time
from collections.abc import Generator
from typing import Any

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.errors import RefusedInput
from eager_lens.core.site_check.watch import Watched
from eager_lens.core.subprocess_reader import Limits, running_in_subprocess
from eager_lens.onsite.check.connecting import connected
from eager_lens.onsite.check.laptop import interfaces
from eager_lens.onsite.check.run import go_to
from eager_lens.onsite.here import SiteHere
from eager_lens.onsite.loopback import as_loopback, as_open_port

EVERY_S = 2.0


def watching(
    addresses: list[int], ports: list[int], here: dict[str, Any], *, step: Any = None
) -> Generator[int, None, None]:
    """Try some addresses until one answers, and yield it. A refused connection is an answer too, except on loopback, where
    this computer itself refuses for an address that nobody has."""
    on_loopback = bool(here) and here["mode"] == "loopback"
    go_to(here)
    while True:
        begun_s = time.monotonic()
        # Only what is on the laptop's own wires: nothing goes through a gateway to somebody else's network.
        near = addresses if on_loopback else [one for one in addresses if _is_near(one)]
        for number, port in itertools.product(near, ports):
            place = (as_loopback(number), as_open_port(port)) if on_loopback else (address_text(number), port)
            met = asyncio.run(connected(*place))
            if met == "open" or (met == "refused" and not on_loopback):
                yield number
                return
        time.sleep(max(0.0, EVERY_S - (time.monotonic() - begun_s)))


def _is_near(number: int) -> bool:
    return any(number in one.subnet for one in interfaces())


def awaited(wanted: Watched, here: SiteHere | None) -> Generator[float, None, int]:
    """Wait until a device answers; its address. Closing it ends the wait at once.

    Raises:
        RefusedInput: when the wait broke off.
    """
    found: list[int] = []
    arguments = (list(wanted.addresses), list(wanted.ports), {} if here is None else here._asdict())
    target, limits = "eager_lens.onsite.check.watch:watching", Limits(memory_mb=300, time_s=None)
    running = running_in_subprocess(
        target, *arguments, limits=limits, what="what the device answered", part=found.append
    )
    try:
        for _ in running:
            yield 0.0
    finally:
        running.close()
    if not found:
        raise RefusedInput("", "the wait for the device stopped")
    return found[0]
