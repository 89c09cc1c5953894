"""What is wrong with each device's address by itself, taken over from before where neither it nor the subnets changed."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.finding import Finding
from eager_lens.core.assess.incremental.kept import of_devices
from eager_lens.core.job.changes import Changes, checked_names
from eager_lens.core.job.model import Device, Job
from eager_lens.core.pauses import with_pauses


class Judged(NamedTuple):
    """What was found about a device's address by itself: while device and subnets are the same objects, it holds."""

    device: Device
    finding: Finding | None


JUDGED_BY = checked_names("subnets", "network.role", *of_devices("name", "address", "subnet", "address_assignment"))
"""What is looked at when a device's address is judged by itself."""

JUDGED_BESIDE_CAMERAS = frozenset(name for name in JUDGED_BY if not name.startswith("cameras."))


def judged_addresses(
    job: Job,
    devices: tuple[Device, ...],
    judge: Callable[[Device], Finding | None],
    before: Facts | None,
    had: dict[str, Judged],
    since: Changes | None,
) -> dict[str, Judged]:
    """By device id, what is wrong with its address.

    Args:
        judge: tells it of one device.
        before, had: the facts before an edit, and what was told then. since: what the edit changed.
    """
    if before is not None and since is not None and not since.touch(JUDGED_BY):
        return had
    if (
        before is not None
        and since is not None
        and since.cameras is not None
        and not since.touch(JUDGED_BESIDE_CAMERAS)
    ):
        return had | {one.id: Judged(one, judge(one)) for one in since.cameras}
    old = had if before and before.job.subnets is job.subnets else {}
    judged: dict[str, Judged] = {}
    for device in with_pauses(devices, 500):
        was = old.get(device.id)
        if was is None or was.device is not device:
            was = Judged(device, judge(device))
        judged[device.id] = was
    return judged
