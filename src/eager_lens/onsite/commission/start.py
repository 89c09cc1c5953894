"""Starting a commissioning over the network from the window or the command line."""

from __future__ import annotations

from collections.abc import Callable, Generator, Mapping
from pathlib import Path
from typing import Any

from eager_lens.core.commission.act import SetPlan
from eager_lens.core.commission.ledger import ActLine, Run, runs_in
from eager_lens.core.commission.plan import Wishes, plan_of
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.file import job_text
from eager_lens.core.job.model import Job, changed
from eager_lens.core.site_check.readings import CheckRun, Switches
from eager_lens.core.subprocess_reader import running_in_subprocess
from eager_lens.core.validation import read_as
from eager_lens.onsite.check.start import LIMITS, checking_site, note_of
from eager_lens.onsite.here import SiteHere

LOOKS = Switches(sweep=False, stream=False, events=False, first_addresses=True, default_passwords=True)
"""A look before anything is set: the planned addresses, the makes' default ones, and whoever answers a search."""

WHAT = "what the devices answered"


def looking_at(
    job: Job, wishes: Wishes, passwords: Mapping[str, str], here: SiteHere | None, may_ask: bool = False
) -> Generator[float, None, CheckRun]:
    """Look at the devices of a job as they are now; nothing is set. Yields the share that is done.

    Args:
        may_ask: whether the desktop may ask for the right to pin addresses.

    Raises:
        RefusedInput: when it broke off.
    """
    switches = changed(LOOKS, only=wishes.only)
    target = "eager_lens.onsite.commission.run:looking"
    return checking_site(job, switches, passwords, here, target=target, further=(may_ask,))


def planning(
    job: Job, wishes: Wishes, passwords: Mapping[str, str], here: SiteHere | None, may_ask: bool
) -> Generator[float, None, SetPlan]:
    """As ``looking_at``; what the devices are to be set to. Stand-ins take the password of their site."""
    run = yield from looking_at(job, wishes, passwords, here, may_ask)
    known = set(passwords) if here is None else {device.id for device in job.devices()}
    return plan_of(job, run, known, wishes)


def setting_devices(
    job: Job,
    plan: SetPlan,
    passwords: Mapping[str, str],
    here: SiteHere | None,
    ledger: Path,
    stop: Path,
    may_ask: bool = False,
    puts_back: bool = False,
    told: Callable[[ActLine], None] = lambda line: None,
) -> Generator[float, None, Run]:
    """Carry a plan out; yields the share that is done. Closing it ends it at once, in the middle of a setting too; making the
    file ``stop`` ends it after the setting that runs.

    Raises:
        RefusedInput: when it broke off. FileTrouble: when the state could not be written.
    """
    share = 0.0

    def take(part: tuple[str, Any]) -> None:
        nonlocal share
        kind, value = part
        if kind == "line":
            told(read_as(ActLine, value))
        elif kind == "share":
            share = value

    places = {"ledger": str(ledger), "stop": str(stop), "may_ask": may_ask, "puts_back": puts_back}
    arguments = (job_text(job), plan.model_dump(mode="json"), dict(passwords), note_of(here), places)
    running = running_in_subprocess(
        "eager_lens.onsite.commission.run:setting", *arguments, limits=LIMITS, what=WHAT, part=take
    )
    try:
        for _ in running:
            yield share
    finally:
        running.close()
    runs = runs_in(ledger)
    if not runs:
        raise RefusedInput("", "it stopped before anything was written")
    return runs[-1]
