"""Several devices down at once: the parts that they have in common, and what that makes of each cause."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.fault_finder.table import Cause, FaultTable, Span
from eager_lens.core.job.model import Camera, Device, Job, Recorder
from eager_lens.core.units import count

OTHERS = "others"
"""The test that asks for the neighbours; a list of failed devices has answered it already."""
ALONE = 0.02
"""So many times as likely is a cause of one device alone, when several went down at once."""
TOGETHER = 6.0
"""So many times as likely is a cause of a part that explains all of them, and no others."""
LEAST_FIT = 0.15
PARTIAL_FIT = 0.75
"""The fit of a cause that takes some of those behind its part and leaves others, such as a power budget."""


def recorder_of(job: Job, device: Device) -> Recorder | None:
    """The recorder that a device is registered on first; a recorder's own is itself."""
    if isinstance(device, Recorder):
        return device
    if isinstance(device, Camera) and device.registered:
        return next((one for one in job.recorders if one.id == device.registered[0].recorder), None)
    return None


class CommonPart(NamedTuple):
    """A part that devices which are down have in common: how many of those behind it are down, and of how many."""

    id: str
    name: str
    down: int
    behind: int

    def fit(self, down: int) -> float:
        """How well it explains that so many are down, 0 to 1: all of them stand behind it, and no others (the harmonic mean of
        the two shares)."""
        return 2 * self.down / (self.behind + down)


def common_parts(assessment: Assessment, down: Iterable[str]) -> list[CommonPart]:
    """What could explain that several cameras are down at once, best first: parts behind which two of them or more are."""
    facts, job = assessment.facts, assessment.job
    gone = frozenset(down)
    links = {link.id: link for link in job.links}
    names = {unit.id: unit.name for unit in job.power_units}
    behind = {failure.part: set(failure.stopped) for failure in facts.failures}
    for camera_id, part in facts.topology.wiring.hangs_on.items():
        behind.setdefault(part, set()).add(camera_id)  # one that is registered nowhere stops nothing, and is down too
    for subnet in job.subnets:
        names[subnet.id] = f"subnet {subnet.name}"
        behind[subnet.id] = {camera.id for camera in job.cameras if camera.subnet == subnet.id}
    for part in links.keys() & behind.keys():
        names[part] = facts.link_name(links[part])
    found = []
    for part, cameras in behind.items():
        both = len(cameras & gone)
        if both > 1:
            found.append(CommonPart(part, names.get(part) or facts.name(part), both, len(cameras)))
    return sorted(found, key=lambda one: (-one.fit(len(gone)), one.behind, one.name))


def group_factors(
    assessment: Assessment, device: Device, down: Collection[str], table: FaultTable
) -> dict[str, tuple[float, str]]:
    """By cause, how many times as likely it is now that several cameras are down, and why in words (empty: it is not
    likelier)."""
    parts = {one.id: one for one in common_parts(assessment, down)}
    around = _around(assessment, device)
    found = {}
    for cause in table.causes:
        fits = [_fit(cause, parts[one], len(down)) for span in cause.spans for one in around[span] if one in parts]
        best = max(fits, default=(0.0, ""))
        likelier = TOGETHER * best[0] ** 3 if best[0] > LEAST_FIT else 0.0
        found[cause.id] = (likelier, best[1]) if likelier > 1 else (max(likelier, ALONE), "")
    return found


def _fit(cause: Cause, part: CommonPart, down: int) -> tuple[float, str]:
    words = f"{part.down} of {count(part.behind, 'camera')} behind {part.name} are down"
    if cause.partial:
        return (PARTIAL_FIT * part.down / down if part.down < part.behind else part.down / down / 2), words
    return part.fit(down), words


def _around(assessment: Assessment, device: Device) -> dict[Span, list[str]]:
    """The parts that a device depends on, by kind."""
    facts, job = assessment.facts, assessment.job
    links = facts.topology.wiring.links_at.get(device.id, [])
    host = links[0].far_end(device.id)[0] if links else ""
    recorder, unit = recorder_of(job, device), facts.fed_by_unit.get(device.id)
    on_way = [link for link in job.links if device.id in facts.stops.get(link.id, ())]
    radio = [link.id for link in on_way if link.medium == "radio"]
    return {
        "switch": [host] if host else [],
        "uplink": [link.id for link in on_way if device.id not in (link.a, link.b)],
        "radio": radio,
        "supply": [unit.id] if unit is not None else [],
        "subnet": [device.subnet] if device.subnet else [],
        "recorder": [recorder.id] if recorder is not None else [],
    }
