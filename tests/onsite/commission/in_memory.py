"""A small site out of the box without sockets, looked at, set and looked at again in the time of its own loop."""

import asyncio
import tempfile
from pathlib import Path

from eager_lens.core.addressing.ipv4 import address_number, address_text
from eager_lens.core.assess.assessment import assess
from eager_lens.core.commission.ledger import Ledger, runs_in
from eager_lens.core.commission.plan import Wishes, plan_of
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.site_check.readings import UTC_FORM, CheckRun, Heard
from eager_lens.core.site_check.scope import targets_of
from eager_lens.core.virtual_site.as_set import out_of_the_box
from eager_lens.core.virtual_site.faults import inject_by_name
from eager_lens.core.virtual_site.stand_in import described, stand_in_password
from eager_lens.onsite.check.look import Look
from eager_lens.onsite.commission.carrying import Carrying
from eager_lens.onsite.commission.start import LOOKS
from eager_lens.onsite.in_memory import JumpingLoop, MemoryPins, MemorySite, MemoryWire
from eager_lens.onsite.open_protocol.names import DEVICE_PATH
from tests.onsite.base import small_job

PASSWORD = "Rehearse-1"
FIRST = "172.30.0.50"
MAKES = (
    MakeProfile(make="Quillmark", first_address=FIRST, open_protocol_on=True, start_s=20),
    MakeProfile(make="Recorder", first_address="172.30.0.60", open_protocol_on=True, start_s=40),
)


def boxed_job(many=3, per_camera=(), **fields):
    """A job whose makes have the open protocol on out of the box."""
    job = small_job(many, per_camera, make_profiles=MAKES, **fields)
    recorders = tuple(one.model_copy(update={"make": "Recorder", "serial": "RE-1"}) for one in job.recorders)
    return job.model_copy(update={"recorders": recorders})


def stand_ins_of(job, faults=()):
    """Its devices out of the box; ``faults`` by name, as ``slow=Camera 1``."""
    site = out_of_the_box(assess(job))
    inject_by_name(site, faults)
    return [
        one for one in described(site, stand_in_password(PASSWORD, {})).stand_ins if one.role in ("camera", "recorder")
    ]


async def _looked_at(site, job, passwords):
    """What a look finds: each device at the address that it holds."""
    heard, reads = {}, []
    targets = {target.device: target for target in reversed(targets_of(job))}
    look = Look(MemoryWire(site).network, LOOKS, passwords, _at_once)
    pins = MemoryPins(site)
    for device in site.devices.values():
        if not device.is_open:
            continue
        one = device.stand_in.interfaces[0]
        heard.setdefault(address_text(one.address), []).append(one.mac_address)
    for name, device in site.devices.items():
        one = device.stand_in.interfaces[0]
        address = address_text(one.address)
        if not device.is_open or name not in targets:
            continue
        url = (f"http://{address}:{device.stand_in.profile.http_port}{DEVICE_PATH}",)
        async with pins.only(one.address, one.mac_address):
            http = MemoryWire(site).http("")
            told = Heard(address=address, urls=url)
            reads.append(await look.over(http, targets[name], address_number(address), told))
    each = tuple(Heard(address=address, mac_addresses=tuple(macs)) for address, macs in heard.items())
    return CheckRun(at="2026-03-02T12:00:00Z", heard=each, read=tuple(reads), arp_heard=True)


async def _at_once():
    """Ask at once."""


class Site:
    """Stand-ins of a job out of the box, in this process.

    ``asks``: told of each question, with the device; may raise ``OSError``.
    """

    def __init__(self, job, faults=(), asks=lambda device, name: None):
        self.job, self.loop = job, JumpingLoop()
        self.memory = MemorySite(stand_ins_of(job, faults), asks)
        self.passwords = {device.id: PASSWORD for device in job.devices()}
        self.folder = tempfile.TemporaryDirectory()
        self.ledger_path = Path(self.folder.name) / "job.commissioning.jsonl"
        self.stop_path = Path(self.folder.name) / "stop"
        self.told = []
        self.run(self.memory.start())

    def run(self, work):
        return self.loop.run_until_complete(work)

    def close(self):
        self.run(self.memory.stop())
        self.loop.close()
        self.folder.cleanup()

    def look(self):
        """What they tell now."""
        return self.run(_looked_at(self.memory, self.job, self.passwords))

    def plan(self, **wishes):
        """What they are to be set to."""
        return plan_of(self.job, self.look(), set(self.passwords), Wishes(**wishes))

    def set(self, plan=None, puts_back=False, pins=True):
        """Set them; what stands on disk of it."""
        plan = plan or self.plan()
        ledger = Ledger(self.ledger_path)
        tell = lambda kind, value: self.told.append((kind, value))  # noqa: E731
        wire, pinning = MemoryWire(self.memory), MemoryPins(self.memory) if pins else None
        carrying = Carrying(self.job, plan, self.passwords, wire, pinning, ledger, tell, self.stop_path, puts_back)
        try:
            self.run(carrying.run())
        finally:
            ledger.close()
        return runs_in(self.ledger_path)[-1]

    def abandon(self):
        """Let go of what a run that was killed had under way; the devices go on."""
        for task in asyncio.all_tasks(self.loop):
            if "Carrying" in repr(task):
                task.cancel()

    def device(self, name):
        return self.memory.devices[name]


__all__ = ["FIRST", "MAKES", "PASSWORD", "UTC_FORM", "Site", "asyncio", "boxed_job", "stand_ins_of"]
