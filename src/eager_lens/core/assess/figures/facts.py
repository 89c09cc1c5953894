"""What the finding rules look at: the job, its figures, and look-ups by id, made once an assessment."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from eager_lens.core.addressing.ipv4 import address_number, subnet_of
from eager_lens.core.assess.figures.devices import CameraFigures, RecorderFigures, RunFigures, Trait, run_figures
from eager_lens.core.assess.figures.failing import Failure, failures, stops_recording
from eager_lens.core.assess.figures.power_sources import unit_of_device
from eager_lens.core.assess.figures.promised import Calendar
from eager_lens.core.assess.figures.topology import Topology
from eager_lens.core.assess.finding import Finding, Severity
from eager_lens.core.job.model import (
    Camera,
    Device,
    Job,
    Link,
    NetworkDevice,
    PowerUnit,
    Recorder,
    Schedule,
    SubnetPlan,
)
from eager_lens.core.job.wiring import types_of
from eager_lens.core.recording.week import Mode
from eager_lens.core.reference.device_types import DeviceType
from eager_lens.core.sizing.promise import Keeping


@dataclass(frozen=True, eq=False)
class Facts:
    """A job with everything that was worked out about it so far.

    Attributes:
        with_trait: the cameras that have a trait, in the job's order.
        cameras_on, streams_on: by recorder id, the cameras registered there, and their figures.
        held: by recorder id and channel, the ids of the cameras registered there.
        leading_nowhere: cameras registered on a recorder that is not in the job.
        topology: what the wiring carries.
        calendar: the year of the schedules. keeping: by recorder id, its years; None where nothing fills up.
        address_findings: what is wrong with single addresses by themselves.
    """

    job: Job
    camera_figures: dict[str, CameraFigures]
    recorder_figures: dict[str, RecorderFigures]
    with_trait: dict[Trait, list[Camera]]
    cameras_on: dict[str, list[Camera]]
    streams_on: dict[str, list[CameraFigures]]
    held: dict[str, dict[int, list[str]]]
    leading_nowhere: list[Camera]
    address_findings: list[Finding]
    topology: Topology
    schedule_hours: dict[str, dict[Mode, float]]
    calendar: Calendar
    keeping: dict[str, Keeping | None]
    recorders: dict[str, Recorder]
    schedules: dict[str, Schedule]
    subnets: dict[str, SubnetPlan]
    devices: tuple[Device, ...]

    def having(self, trait: Trait) -> list[Camera]:
        """The cameras that have a trait, in the job's order."""
        return self.with_trait[trait]

    @cached_property
    def by_device_id(self) -> dict[str, Device]:
        """All devices by id; made when it is first asked for."""
        return {device.id: device for device in self.devices}

    @cached_property
    def largest_gb_per_day(self) -> float:
        """What the camera that records most writes in a day; made when it is first asked for."""
        return max((got.gb_per_day for got in self.camera_figures.values()), default=0.0)

    @cached_property
    def free_hosts(self) -> dict[str, int]:
        """By subnet id, how many addresses are still free for planning; made when it is first asked for."""
        used = {address_number(device.address) for device in self.devices if device.address}
        return {plan.id: _free_hosts(plan, used) for plan in self.job.subnets}

    @cached_property
    def without_address(self) -> list[Device]:
        """The devices that should have an address and have none; made when it is first asked for."""
        return [device for device in self.devices if not device.address and device.wants_address]

    @cached_property
    def stops(self) -> dict[str, set[str]]:
        """By device or link id, the cameras that stop recording when it fails; made when it is first asked for."""
        return stops_recording(self.topology.wiring.network, self.cameras_on)

    @cached_property
    def failures(self) -> list[Failure]:
        """What each single part takes with it, worst first; made when it is first asked for."""
        return failures(self.topology.wiring.network, self.job, self.cameras_on, self.stops)

    @cached_property
    def suppliers(self) -> tuple[NetworkDevice | Recorder, ...]:
        """What devices can be plugged into."""
        return (*self.job.network, *self.job.recorders)

    @cached_property
    def between(self) -> dict[str, list[Link]]:
        """By device id, its links to other network devices and recorders."""
        found: dict[str, list[Link]] = {device.id: [] for device in self.suppliers}
        for link in self.job.links:
            if link.a in found and link.b in found and link.a != link.b:
                found[link.a].append(link)
                found[link.b].append(link)
        return found

    @cached_property
    def on_link(self) -> dict[str, Camera]:
        """By link id, the camera whose own link it is."""
        feeders = self.topology.wiring.feeders
        return {feeders[camera.id].id: camera for camera in self.job.cameras if camera.id in feeders}

    @cached_property
    def by_radio_or_fibre(self) -> list[Camera]:
        """The cameras that no power can come to over their link."""
        on_link = {link.id for link in self.job.links if link.medium != "copper"}
        return [camera for link_id, camera in self.on_link.items() if link_id in on_link] if on_link else []

    @cached_property
    def fed_by_unit(self) -> dict[str, PowerUnit]:
        """By device id, the injector or power supply that feeds it."""
        return unit_of_device(self.job)

    @cached_property
    def device_types(self) -> dict[str, DeviceType]:
        """The device kinds of the reference table, with those of the job over them."""
        return types_of(self.job)

    def passed_on_v(self, camera: Camera) -> float | None:
        """What a device that is fed over its cable passes on to a camera; None for a camera on a port of its own power, and
        where nothing arrives."""
        run = self.topology.fed_runs.get(self.topology.wiring.feeding.get(camera.id, ""))
        return None if run is None or camera.id in self.fed_by_unit else run.input_v

    def run_of(self, camera: Camera) -> RunFigures | None:
        """Figures of a camera's run as it is fed; None where it is not powered by its cable or the length is not known."""
        return run_figures(camera, self.passed_on_v(camera))

    def when_missing(self, severity: Severity) -> Severity:
        """How bad it is that something was not planned yet: a to-do, until the first acceptance check says that the site is
        meant to be as it stands here."""
        return severity if self.job.checks else Severity.TODO

    def name(self, device_id: str) -> str:
        """The name of a device, or its id when it is gone."""
        device = self.by_device_id.get(device_id)
        return device_id if device is None else device.name

    def link_name(self, link: Link) -> str:
        """Both ends of a link."""
        return f"{self.name(link.a)} to {self.name(link.b)}"

    def find_camera(self, camera_id: str) -> Camera:
        """The camera of this id.

        Raises:
            KeyError: when the job has none.
        """
        camera = self.by_device_id[camera_id]
        if not isinstance(camera, Camera):
            raise KeyError(camera_id)
        return camera


def _free_hosts(plan: SubnetPlan, used: set[int]) -> int:
    net = subnet_of(plan.cidr)
    taken = used | {address_number(plan.gateway)} if plan.gateway else used
    inside = [number for number in taken if net.is_host(number)]
    if not (plan.pool_first and plan.pool_last):
        return max(0, net.hosts - len(inside))
    first, last = address_number(plan.pool_first), address_number(plan.pool_last)
    pool = max(0, min(last, net.last_host) - max(first, net.first_host) + 1)
    return max(0, net.hosts - pool - sum(not first <= number <= last for number in inside))
