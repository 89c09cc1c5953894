"""From a job to its commissioning: what to power when so that addresses out of the box never collide, and what to type where.

The order is the handbook's: recorder and network first, then bridges, then cameras; cameras that share an address out of
the box one after the other, each re-addressed before the next has power. What cannot come up as planned is found on the
simulated site itself (power), by the recorders' own rules (codec, picture), and from the plan of addresses.
"""

from __future__ import annotations

from collections.abc import Callable

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.model import Camera
from eager_lens.core.runbook.bridge_steps import bridge_steps
from eager_lens.core.runbook.camera_steps import camera_steps, taken_by_its_port
from eager_lens.core.runbook.ground import Ground
from eager_lens.core.runbook.network_steps import begin, laptop_in_place
from eager_lens.core.runbook.recorder_steps import end_steps
from eager_lens.core.runbook.step_list import StepList
from eager_lens.core.runbook.steps import Blocked, Commissioning
from eager_lens.core.simulation.channels import same_maker
from eager_lens.core.simulation.parts import Unit
from eager_lens.core.simulation.segments import CAMERAS, Segment


def commissioning(assessment: Assessment, step: Callable[[float], None] = lambda share: None) -> Commissioning:
    """The commissioning of a job. ``step`` is told the share that is planned, and may raise to stop."""
    ground = Ground(assessment, step)
    found = StepList(ground, step)
    begin(ground, found)
    before: tuple[str, ...] = ()
    for segment in ground.ordered_islands():
        before = _island(ground, found, segment, before)
    for one in end_steps(ground, tuple(one.key for one in found.steps if one.phase != "network")):
        found.add(one)
    return Commissioning(tuple(found.steps), tuple(dict.fromkeys(found.blocked)))


def _island(ground: Ground, found: StepList, segment: Segment, before: tuple[str, ...]) -> tuple[str, ...]:
    """The steps of a broadcast domain: what a laptop reaches from one place. The keys of those that need it there."""
    members = [ground.units[unit_id] for unit_id in dict.fromkeys(unit_id for unit_id, _ in sorted(segment))]
    bridges = [unit for unit in ground.in_order(members) if unit.role == "bridge" and unit.antenna is not None]
    takers = [unit for unit in members if unit.role == "recorder" and (unit.id, CAMERAS) in segment]
    by_hand = []
    for unit in (one for one in ground.in_order(members) if one.role == "camera"):
        if why := ground.dark.get(unit.id, ""):
            found.blocked.append(Blocked(unit.id, why, "wiring"))
        elif any(same_maker(one, unit) for one in takers):
            found.add(taken_by_its_port(unit, takers[0]))
        elif _has_address(ground, found, unit):
            by_hand.append(unit)
    if not bridges and not by_hand:
        return before
    in_place = laptop_in_place(ground, segment, members, (*bridges, *by_hand), before)
    if in_place is None:
        why = "no device in its network has a port for the laptop"
        found.blocked += [Blocked(unit.id, why, "wiring") for unit in (*bridges, *by_hand)]
        return before
    laptop = found.add(in_place)
    used = [key for unit in bridges for key in bridge_steps(ground, found, unit, laptop)]
    serves = ground.serves(segment)
    for unit in by_hand:
        # A device that asks for a lease waits for the bridge to its DHCP server.
        joined = found.bridge_keys if unit.sides[0].assignment == "lease" and not serves else []
        used += camera_steps(ground, found, unit, (laptop, *joined))
    return (laptop, *used)


def _has_address(ground: Ground, found: StepList, unit: Unit) -> bool:
    """Whether a camera that is set up by hand has an address that can be typed in; why not is noted."""
    assert isinstance(unit.device, Camera)
    why = ground.address_trouble(unit.device)
    if why:
        found.blocked.append(Blocked(unit.id, why, "addresses"))
    return not why
