"""Steps of the commissioning plan that the network itself can tell: the device answers, and where."""

from __future__ import annotations

from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import address_number, address_text
from eager_lens.core.job.make_profiles import TLS_PORT, profile_of
from eager_lens.core.job.model import Device, Job
from eager_lens.core.runbook.steps import Step
from eager_lens.core.site_check.scope import is_private

RUNS, HAS_ADDRESS = ("power", "plug"), ("set-up",)


class Watched(NamedTuple):
    """What a step waits for: an answer at any of some addresses, at one of the ports of the device's page."""

    step: str
    device: str
    addresses: tuple[int, ...]
    ports: tuple[int, ...]

    @property
    def words(self) -> str:
        """For whom it waits, and where."""
        return f"{self.device} at {' or '.join(map(address_text, self.addresses))}"


def watched(step: Step, job: Job) -> Watched | None:
    """What a step waits for; None where no answer on the network would tell that it is done.

    A device that was only plugged in may still be at its default address; one that was set up has its planned one.
    """
    device = next((one for one in job.devices() if one.id == step.device_id), None)
    what = step.key.rpartition("/")[2]
    if device is None or not device.wants_address or what not in (*RUNS, *HAS_ADDRESS):
        return None
    addresses = _addresses(device, job, with_default=what in RUNS)
    port = profile_of(device.make, job.make_profiles).http_port
    return Watched(step.key, device.name, addresses, tuple(dict.fromkeys((port, TLS_PORT)))) if addresses else None


def _addresses(device: Device, job: Job, with_default: bool) -> tuple[int, ...]:
    texts = [device.address]
    if with_default:
        texts.append(profile_of(device.make, job.make_profiles).first_address)
    numbers = dict.fromkeys(address_number(text) for text in texts if text)
    return tuple(number for number in numbers if is_private(number))
