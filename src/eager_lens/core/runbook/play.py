"""Playing a commissioning on the simulated site, by its schedule, waiting where the site takes longer than planned."""

from __future__ import annotations

from collections.abc import Generator, Sequence
from typing import NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.rehearsal import SiteAction
from eager_lens.core.progress import finished
from eager_lens.core.runbook.timing import Placed
from eager_lens.core.simulation.actions import do
from eager_lens.core.simulation.site import Site

LONGEST_S = 900.0
"""A step that is not done so long after its time has failed."""

LOOK_S = 5.0


class Played(NamedTuple):
    """What playing came to.

    Attributes:
        actions: what was done. troubles: by step key what was still wrong in the end. late_s: by how much it took longer than
            planned; slowest: the step that was waited for longest, and for how long, in s.
    """

    actions: tuple[SiteAction, ...]
    troubles: dict[str, str]
    late_s: float = 0.0
    slowest: tuple[str, float] = ("", 0.0)


def playing(site: Site, placed: Sequence[Placed]) -> Generator[float, None, Played]:
    """Do all steps on a site, from its present moment on; yields how far it is (0 to 1).

    A step begins when its time has come and those before it count as done; it counts as done when its check says so. What
    fails is noted, and what hangs on it goes on, as at a real bench.
    """
    begun_s = site.now_s
    late_s = 0.0
    actions: list[SiteAction] = []
    troubles: dict[str, str] = {}
    refused: dict[str, str] = {}
    waited: dict[str, float] = {}
    steps = {one.step.key: one.step for one in placed}
    settled: set[str] = set()
    for at, one in enumerate(sorted(placed, key=lambda one: one.start_s)):
        site.run_to(begun_s + late_s + one.start_s)
        for key in one.step.after:
            if key not in settled:
                waited[key] = _wait_for(site, steps[key].still_wrong)
                late_s += waited[key]
                if why := steps[key].still_wrong(site):
                    troubles[key] = _with_reason(why, refused.get(key, ""))
                settled.add(key)
        for action in one.step.actions:
            site.run_to(site.now_s)
            try:
                do(site, action.do, action.device, action.values)
            except RefusedInput as error:
                troubles[one.step.key] = refused[one.step.key] = error.problem
            actions.append(SiteAction(at_s=site.now_s, do=action.do, device=action.device, values=dict(action.values)))
        yield (at + 1) / len(placed)
    last_s = max((one.end_s for one in placed), default=0.0)
    site.run_to(begun_s + late_s + last_s)
    for key, step in steps.items():
        why = step.still_wrong(site) if key not in settled else ""
        if why:
            waited[key] = _wait_for(site, step.still_wrong)
            if waited[key] >= LONGEST_S:
                troubles[key] = _with_reason(step.still_wrong(site), refused.get(key, ""))
    slowest = max(waited, key=lambda key: waited[key], default="")
    planned_s = begun_s + last_s
    return Played(tuple(actions), troubles, max(0.0, site.now_s - planned_s), (slowest, waited.get(slowest, 0.0)))


def _with_reason(why: str, refused: str) -> str:
    """What is still wrong, with what the device said when it was done."""
    return f"{why}: {refused}" if refused and refused not in why else why


def _wait_for(site: Site, check: object) -> float:
    """Wait until a check is content, or for the longest time; seconds that passed."""
    assert callable(check)
    waited_s = 0.0
    while check(site) and waited_s < LONGEST_S:
        site.run_to(site.now_s + LOOK_S)
        waited_s += LOOK_S
    return waited_s


def played(site: Site, placed: Sequence[Placed]) -> Played:
    """Do all steps on a site at once."""
    return finished(playing(site, placed))
