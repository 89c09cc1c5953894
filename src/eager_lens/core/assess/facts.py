"""What the finding rules look at: the job, its figures, and look-ups by id, made once an assessment."""

from __future__ import annotations

from dataclasses import dataclass

from eager_lens.core.assess.figures import CameraFigures, RecorderFigures
from eager_lens.core.job.model import Camera, Device, Job, NetworkDevice, Recorder, SubnetPlan, Week
from eager_lens.core.recording.week import Mode


@dataclass(frozen=True)
class Facts:
    """A job with everything that was worked out about it so far."""

    job: Job
    camera_figures: dict[str, CameraFigures]
    recorder_figures: dict[str, RecorderFigures]
    cameras_on: dict[str, list[Camera]]
    week_hours: dict[str, dict[Mode, float]]
    recorders: dict[str, Recorder]
    weeks: dict[str, Week]
    subnets: dict[str, SubnetPlan]
    devices: tuple[Device, ...]

    def name(self, device_id: str) -> str:
        """The name of a device, or its id when it is gone."""
        return next((device.name for device in self.devices if device.id == device_id), device_id)

    def everything(self) -> tuple[Recorder | NetworkDevice | Camera, ...]:
        """Every device with its own type."""
        return (*self.job.network, *self.job.recorders, *self.job.cameras)
