"""A job as a pattern for others: the plan stays, what belongs to one customer, one site or one device goes."""

from __future__ import annotations

from typing import TypeVar

from eager_lens.core.job.model import Camera, Device, Job, changed

D = TypeVar("D", bound=Device)

OF_ONE_DEVICE = {"mac_address": "", "serial": "", "firmware": ""}

OF_ONE_CAMERA = {
    **dict.fromkeys(("measured_mbps", "measured_low_mbps", "measured_high_mbps", "measured_min", "measured_at")),
    "measured_from": "",
    "measured_when": "",
    "seen": None,
    "events_from": "",
    "tried_clip": None,
}
"""What was read off a camera where it hung."""


def _as_new(device: D) -> D:
    fields = {**OF_ONE_DEVICE, **(OF_ONE_CAMERA if isinstance(device, Camera) else {})}
    return changed(device, **{name: value for name, value in fields.items() if getattr(device, name) != value})


def as_template(job: Job) -> Job:
    """The job without customer, site, contact and what was done and measured there; names, wiring, addresses and times stay."""
    return changed(
        job,
        customer="",
        site="",
        contact="",
        cameras=tuple(map(_as_new, job.cameras)),
        recorders=tuple(map(_as_new, job.recorders)),
        network=tuple(map(_as_new, job.network)),
        spare_cameras=tuple(map(_as_new, job.spare_cameras)),
        spare_recorders=tuple(map(_as_new, job.spare_recorders)),
        spare_network=tuple(map(_as_new, job.spare_network)),
        checks=(),
        mounting=(),
        walks=(),
        fill_readings=(),
        snags=(),
        commissioning=(),
        rehearsal=None,
        handed_over=(),
    )
