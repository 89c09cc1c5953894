"""Starting a check from the window or the command line: it runs in a process of its own, and is ended with it."""

from __future__ import annotations

from collections.abc import Callable, Generator, Mapping, Sequence
from typing import Any, NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.file import job_text
from eager_lens.core.job.model import Job
from eager_lens.core.site_check.readings import CheckRun, DeviceRead, Heard, Switches
from eager_lens.core.site_check.scope import Interface, everywhere, scope_of, words_of
from eager_lens.core.subprocess_reader import Limits, run_in_subprocess, running_in_subprocess
from eager_lens.core.validation import read_as
from eager_lens.onsite.here import SiteHere

LIMITS = Limits(memory_mb=700, time_s=None)
WHAT = "what the site answered"


class Progress(NamedTuple):
    """What a check has read so far, in the order in which it came."""

    heard: tuple[Heard, ...]
    read: tuple[DeviceRead, ...]
    laptop: tuple[str, ...]
    arp_heard: bool


def intended(job: Job, switches: Switches, here: SiteHere | None) -> tuple[str, ...]:
    """Where a check would go and what it would send, in words; nothing is sent for this.

    Raises:
        RefusedInput: when the site of stand-ins is gone.
    """
    if here is not None and here.mode == "loopback":
        own = everywhere(job)
    else:
        found = run_in_subprocess(
            "eager_lens.onsite.check.run:seen_from_here", note_of(here), what="the list of interfaces"
        )
        own = [Interface(*one) for one in found]
    return words_of(scope_of(job, own, switches), switches)


def note_of(here: SiteHere | None) -> dict[str, Any]:
    """The note of a site of stand-ins as another process takes it; empty for the network that this computer is in."""
    return {} if here is None else here._asdict()


def checking_site(
    job: Job,
    switches: Switches,
    passwords: Mapping[str, str],
    here: SiteHere | None,
    so_far: Callable[[Progress], None] = lambda progress: None,
    target: str = "eager_lens.onsite.check.run:checking",
    further: Sequence[Any] = (),
) -> Generator[float, None, CheckRun]:
    """Check the site of a job; yields the share that is done, some times a second. Closing it ends the check at once.

    Args:
        passwords: by device id, from the unlocked sealed file. here: the site of stand-ins that is meant; None: the network
            that this computer is in. so_far: told what was read, as it comes. target, further: what checks, in a process of its
            own, and what it is given besides.

    Raises:
        RefusedInput: when it broke off.
    """
    heard: dict[str, Heard] = {}
    read: dict[str, DeviceRead] = {}
    laptop: tuple[str, ...] = ()
    arp_heard = False
    share, outcome = 0.0, None

    def take(part: tuple[str, Any]) -> None:
        nonlocal share, outcome, laptop, arp_heard
        kind, value = part
        if kind == "heard":
            one = read_as(Heard, value)
            heard[one.address] = one
        elif kind == "read":
            device = read_as(DeviceRead, value)
            read[device.device] = device
        elif kind == "laptop":
            laptop, arp_heard = tuple(value[0]), value[1]
        elif kind == "share":
            share = value
        elif kind == "run":
            outcome = read_as(CheckRun, value)

    arguments = (job_text(job), switches.model_dump(), dict(passwords), note_of(here), *further)
    running = running_in_subprocess(target, *arguments, limits=LIMITS, what=WHAT, part=take)
    known = -1
    try:
        for _ in running:
            if len(heard) + len(read) != known:
                known = len(heard) + len(read)
                so_far(Progress(tuple(heard.values()), tuple(read.values()), laptop, arp_heard))
            yield share
    finally:
        running.close()
    if outcome is None:
        raise RefusedInput("", "the check stopped before the end")
    return outcome
