"""What the job says of a fault on one of its devices: what it rules out, what it makes likely, and its names in the questions."""

from __future__ import annotations

from collections.abc import Collection
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.finding import Finding
from eager_lens.core.fault_finder.groups import OTHERS, group_factors, recorder_of
from eager_lens.core.fault_finder.inference import Case, case_of
from eager_lens.core.fault_finder.names import names_of
from eager_lens.core.fault_finder.own_figures import table_of
from eager_lens.core.fault_finder.table import Cause, FaultTable
from eager_lens.core.job.model import Camera, Device, NetworkDevice, role_of

RAISED = 4.0
"""So many times as likely is a cause that a finding of the job speaks for."""

LACKS: dict[str, str] = {
    "camera": "it is not a camera",
    "wired": "it has no copper cable",
    "poe": "it does not use PoE",
    "supply": "it has no power supply or injector",
    "switched": "it is not connected",
    "shared-switch": "no other device is connected to the same switch",
    "uplinked": "there is no uplink between it and the recorder",
    "far": "no other switch is between it and the recorder",
    "outdoor": "neither it nor its cable is outdoors",
    "recorded": "it is not registered",
    "radio": "no radio link is on its path",
    "long-reach": "its port is not in long-reach mode",
    "router": "neither it nor its switch is connected to a router",
    "routed": "it and its recorder are in one subnet",
    "events": "it records nothing on motion",
    "viewer": "no remote viewing is planned",
}
"""Why a cause is ruled out on a device that lacks a trait which the cause, or a test, asks for."""


class Said(NamedTuple):
    """What the job says of a cause: ``likely`` or ruled out, and why."""

    cause: Cause
    likely: bool
    words: str


class JobCase(NamedTuple):
    """A fault on a device of a job.

    Attributes:
        case: to reckon with. said: what the job says, ruled out last.
        names: what stands for each place in braces. findings: those of the job by the cause that they speak for.
        down: the cameras that show it, where there are several.
    """

    device: Device
    case: Case
    said: tuple[Said, ...]
    names: dict[str, str]
    findings: dict[str, Finding]
    down: tuple[str, ...] = ()

    def filled(self, text: str) -> str:
        """A text of the table with the job's names in it."""
        return text.format_map(self.names)


def job_case(
    assessment: Assessment,
    device: Device,
    symptom: str,
    table: FaultTable | None = None,
    from_findings: bool = True,
    down: Collection[str] = (),
) -> JobCase:
    """The case of a symptom on a device of the job.

    Args:
        table: to go by; None for the one that the job goes by. from_findings: whether findings raise causes.
        down: the cameras that show it, where there are several: what they have in common is then likelier than what only one
            of them has.

    Raises:
        RefusedInput: the table has no such symptom.
    """
    table = table or table_of(assessment.job)
    traits = traits_of_fault(assessment, device)
    speaking = _speaking(assessment, device, table) if from_findings else {}
    said, factors = [], {}
    for cause in table.causes:
        lacks = next((trait for trait in cause.when if trait not in traits), None)
        if lacks is not None:
            if symptom in cause.priors:
                said.append(Said(cause, False, LACKS[lacks]))
        elif cause.id in speaking and symptom in cause.priors:
            factors[cause.id] = RAISED
            said.append(Said(cause, True, speaking[cause.id].title))
    together = group_factors(assessment, device, down, table) if len(down) > 1 else {}
    for cause_id, (factor, words) in together.items():
        factors[cause_id] = factor * factors.get(cause_id, 1.0)
        if words and symptom in table.cause(cause_id).priors:
            said.append(Said(table.cause(cause_id), True, words))
    case = case_of(table, symptom, traits, factors, without={OTHERS} if together else ())
    assert case is not None, "a wrong password can be the cause anywhere"
    said.sort(key=lambda one: not one.likely)
    return JobCase(device, case, tuple(said), names_of(assessment, device), speaking, tuple(down))


def traits_of_fault(assessment: Assessment, device: Device) -> frozenset[str]:
    """The traits that causes and tests ask for (the keys of ``LACKS``), of a device as it is planned."""
    job, facts = assessment.job, assessment.facts
    wiring = facts.topology.wiring
    found = {"camera"} if isinstance(device, Camera) else set()
    links_at = wiring.links_at
    links = links_at.get(device.id, [])
    link = links[0] if links else None
    recorder = recorder_of(job, device)
    if link is not None:
        found.add("switched")
        found |= {"wired"} if link.medium == "copper" else set()
        found |= {"long-reach"} if link.long_reach else set()
        other = link.far_end(device.id)[0]
        found |= {"shared-switch"} if len(wiring.links_at.get(other, ())) > 2 else set()
        found |= {"uplinked"} if recorder is not None and other != recorder.id else set()
        if recorder is not None and all(other not in (one.a, one.b) for one in links_at.get(recorder.id, ())):
            found |= {"far"} if other != recorder.id else set()
    else:
        found.add("wired")  # nothing is drawn; a cable it has all the same
    if isinstance(device, Camera | NetworkDevice) and (
        device.poe_class is not None
        and device.id not in facts.fed_by_unit
        and (link is None or link.medium == "copper")
    ):
        found.add("poe")
    elif role_of(device) in ("camera", "bridge") or device.id in facts.fed_by_unit:
        found.add("supply")
    if (isinstance(device, Camera) and (device.outdoor or (link is not None and link.outdoor))) or role_of(
        device
    ) == "bridge":
        found.add("outdoor")
    if role_of(device) == "bridge" or _by_radio(assessment, device):
        found.add("radio")
    routers = {one.id for one in job.network if role_of(one) == "router"}
    near = {device.id, links[0].far_end(device.id)[0]} if links else {device.id}
    if any({one.a, one.b} & routers for part in near for one in links_at.get(part, ())):
        found.add("router")
    if any(one.upload_mbps is not None or one.viewed_streams for one in job.network):
        found.add("viewer")
    if recorder is not None:
        found |= {"recorded"}
        sides = {recorder.subnet, recorder.camera_interface_subnet}
        found |= {"routed"} if device.subnet and device.subnet not in sides else set()
    if isinstance(device, Camera) and device.id in facts.camera_figures and recorder is not None:
        found |= {"events"} if facts.camera_figures[device.id].motion_h_per_day > 0 else set()
    return frozenset(found)


def _by_radio(assessment: Assessment, device: Device) -> bool:
    """Whether what a camera sends passes a radio link on its way to a recorder."""
    stops = assessment.facts.stops
    return any(link.medium == "radio" and device.id in stops.get(link.id, ()) for link in assessment.job.links)


def _speaking(assessment: Assessment, device: Device, table: FaultTable) -> dict[str, Finding]:
    """By cause, the first finding that speaks for it: one about this device, or about what it hangs on, feeds from or is
    recorded by where no camera is named."""
    job, wiring = assessment.job, assessment.facts.topology.wiring
    links = wiring.links_at.get(device.id, [])
    around = {device.id, device.subnet, *(link.id for link in links), *(link.far_end(device.id)[0] for link in links)}
    recorder, unit = recorder_of(job, device), assessment.facts.fed_by_unit.get(device.id)
    around |= {one.id for one in (recorder, unit) if one is not None}
    causes_of: dict[str, list[str]] = {}
    for cause in table.causes:
        for code in cause.findings:
            causes_of.setdefault(code, []).append(cause.id)
    cameras = wiring.camera_ids or tuple(camera.id for camera in job.cameras)
    camera_ids = frozenset(cameras)
    found: dict[str, Finding] = {}
    for finding in (*assessment.findings, *assessment.accepted):
        causes = causes_of.get(finding.code)
        if causes is None:
            continue
        about = device.id in finding.subjects or (
            not around.isdisjoint(finding.subjects) and camera_ids.isdisjoint(finding.subjects)
        )
        for cause_id in causes if about else ():
            found.setdefault(cause_id, finding)
    return found
