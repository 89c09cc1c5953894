"""Runs on small sites with one fault each, by chance: ``python -m tests.onsite.commission.seeded 1000``.

After each: whatever was set is the job's own; whoever was set up takes the noted password; every device is where the plan or its
box has it; and once the fault is gone, a second run ends as planned.
"""

import asyncio
import random
import sys
from collections import Counter

from eager_lens.core.addressing.ipv4 import address_number, address_text
from eager_lens.core.commission.ledger import Ledger, runs_in
from tests.onsite.commission.in_memory import FIRST, PASSWORD, Site, boxed_job

STRANGER_MAC = "02:99:00:00:00:01"
FIRSTS = {FIRST, "172.30.0.60"}
SETS = ("Set", "Create", "Modify", "Delete", "SystemReboot")


class Killed(BaseException):
    """The program was ended."""


class Trial:
    """One site with one fault."""

    def __init__(self, seed):
        self.chance = random.Random(seed)
        self.fault = self.chance.choice(list(FAULTS))
        self.site = Site(boxed_job(self.chance.randint(1, 3)), habits_of(self.fault))
        self.victim = self.site.device(self.chance.choice([one for one in self.site.memory.devices if one != "rec-1"]))
        self.questions, self.at = 0, self.chance.randint(1, 60)
        self.stranger = None
        self.stays = self.fault in ("refuses", "stranger", "wrong password", "address taken")
        FAULTS[self.fault](self)

    def asked(self, act):
        """Do something at the n-th question that sets anything."""

        def seen(device, name):
            if name.startswith(SETS):
                self.questions += 1
                if self.questions == self.at:
                    act(device)

        self.site.memory._asks = seen

    def run(self):
        """Set the site twice; what is wrong afterwards, in words."""
        try:
            self.site.set()
        except Killed:
            Ledger.add = WHOLE_ADD
            self.site.abandon()
        run = runs_in(self.site.ledger_path)[-1]
        unknown = [act.key for _, act in run.in_state("begun")] if run.is_over else []
        wrong = [f"told nothing of {unknown}"] if unknown else []
        wrong += [f"{name} went to an address of several" for name in self.site.memory.unclear]
        self.site.memory._asks = lambda device, name: None
        self.victim.gate._locked_until_s = 0.0  # a lock counts real time, which does not jump
        if self.site.stop_path.exists():
            self.site.stop_path.unlink()
        self.site.run(asyncio.sleep(400))
        wrong += self.safe()
        self.site.set()
        wrong += self.safe()
        if not self.stays:
            left = {one.device: [act.key for act in one.acts] or one.refused for one in self.site.plan().devices}
            wrong += [f"{device}: {what}" for device, what in left.items() if what]
        return wrong

    def safe(self):
        """What of any device is as nobody could save it, or as nobody wanted it."""
        wrong = []
        for name, device in self.site.memory.devices.items():
            now = device.stand_in
            if device is self.stranger:
                if device.is_set_up or now != self.before:
                    wrong.append(f"{name} is a stranger and was set")
                continue
            known = {PASSWORD, "Another-1"}
            if device.is_set_up and not known & set(device.gate.users.get("installer", ())):
                wrong.append(f"{name} takes a password that nobody knows")
            planned = next(one.address for one in self.site.job.devices() if one.id == name)
            places = FIRSTS | {planned, "172.22.40.99"}
            if self.fault == "address taken":
                places.add(address_text(self.taken))
            if address_text(now.interfaces[0].address) not in places:
                wrong.append(f"{name} is where nobody looks")
        return wrong


def habits_of(fault):
    return {"refuses": ("refuses=Camera 1",), "slow": ("slow=Camera 1",)}.get(fault, ())


def power_goes(trial):
    def dark(device):
        device.is_open = False
        trial.site.loop.call_later(trial.chance.choice((2.0, 20.0, 120.0)), setattr, device, "is_open", True)

    trial.asked(dark)


def connection_closes(trial):
    def closed(device):
        raise OSError("the connection was closed")

    trial.asked(closed)


def stopped(trial):
    trial.asked(lambda device: trial.site.stop_path.touch())


def killed(trial):
    count, at = 0, trial.chance.randint(1, 60)

    def dies(ledger, line):
        nonlocal count
        count += 1
        if count >= at:
            raise Killed
        WHOLE_ADD(ledger, line)

    Ledger.add = dies


async def set_user(device, password):
    """Give it its first user."""
    device.set_user("installer", password)


def wrong_password(trial):
    trial.site.run(set_user(trial.victim, "Another-1"))


def locked(trial):
    trial.site.run(set_user(trial.victim, PASSWORD))
    for _ in range(5):
        trial.victim.gate._counted(False)


def clock_off(trial):
    trial.victim.clock.set_ahead(trial.chance.uniform(-400, 400) * 86_400)


def address_taken(trial):
    planned = {one.id: one.address for one in trial.site.job.devices()}
    others = [one for one in planned if one != trial.victim.stand_in.id and one.startswith(("cam", "rec"))]
    trial.taken = address_number(planned[trial.chance.choice(others)])
    first, *rest = trial.victim.stand_in.interfaces
    trial.victim.change(interfaces=(first._replace(address=trial.taken), *rest))


def stranger(trial):
    first, *rest = trial.victim.stand_in.interfaces
    trial.victim.change(serial="XX-1", interfaces=(first._replace(mac_address=STRANGER_MAC), *rest))
    trial.stranger, trial.before = trial.victim, trial.victim.stand_in


def nothing(trial):
    """It is the device itself that has the fault."""


FAULTS = {
    "power": power_goes,
    "connection": connection_closes,
    "stopped": stopped,
    "killed": killed,
    "wrong password": wrong_password,
    "locked": locked,
    "clock": clock_off,
    "address taken": address_taken,
    "stranger": stranger,
    "refuses": nothing,
    "slow": nothing,
}
WHOLE_ADD = Ledger.add


def run_many(seeds):
    """Run them all: by fault how many, and what went wrong."""
    seen, wrong = Counter(), []
    for seed in seeds:
        trial = Trial(seed)
        try:
            seen[trial.fault] += 1
            wrong += [f"seed {seed} ({trial.fault}): {words}" for words in trial.run()]
        finally:
            Ledger.add = WHOLE_ADD
            trial.site.close()
    return seen, wrong


if __name__ == "__main__":
    seen, wrong = run_many(range(int(sys.argv[1])))
    print(dict(seen), *wrong, f"{len(wrong)} wrong", sep="\n")
    sys.exit(bool(wrong))
