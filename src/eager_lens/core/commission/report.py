"""What came of a commissioning over the network, device by device, in words."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

from eager_lens.core.commission.act import Act, DevicePlan, SetPlan
from eager_lens.core.commission.ledger import ActLine, Run, State
from eager_lens.core.units import count

STATE_WORDS: dict[State, str] = {
    "begun": "not known",
    "done": "set",
    "refused": "refused",
    "not taken": "not as sent",
    "lost": "lost",
}


class ActReport(NamedTuple):
    """What came of an act; ``line`` is None where it was not begun."""

    act: Act
    line: ActLine | None

    @property
    def is_done(self) -> bool:
        """Whether it was set, and read back so."""
        return self.line is not None and self.line.state == "done"

    @property
    def words(self) -> str:
        """Its state in a word or two, and why."""
        if self.line is None:
            return "not begun"
        why = f": {self.line.why}" if self.line.why else ""
        return f"{STATE_WORDS[self.line.state]}{why}"


class DeviceReport(NamedTuple):
    """What came of a device."""

    plan: DevicePlan
    acts: tuple[ActReport, ...]

    @property
    def is_as_planned(self) -> bool:
        """Whether all that was to be set is, and nothing stays by hand."""
        return all(one.is_done for one in self.acts) and not self.plan.by_hand and not self.plan.refused

    @property
    def approximated(self) -> tuple[str, ...]:
        """What was set to something near what is planned."""
        rows = (row for one in self.acts if one.is_done for row in one.act.settings)
        return tuple(f"{row.what} {row.will_be}: {row.note}" for row in rows if row.note)


def intent_words(plan: SetPlan) -> str:
    """How much a plan sets, before anything is sent."""
    each = plan.to_set
    settings = sum(one.settings for one in each)
    return f"{count(len(each), 'device')}, {count(settings, 'setting')}; nothing is sent before you say so."


CAUTIONS = (
    "Cameras restart, and recording stops for about a minute for each: not while somebody relies on the pictures.",
    "Set only devices that you have been asked to set; passwords go to a device out of its box as the open protocol has it, "
    "without encryption: keep that to a network of your own.",
)


def report_of(run: Run) -> tuple[DeviceReport, ...]:
    """What came of a run."""
    by_device: dict[str, list[ActReport]] = {}
    for device, act, line in run.each():
        by_device.setdefault(device.device, []).append(ActReport(act, line))
    return tuple(DeviceReport(one, tuple(by_device.get(one.device, ()))) for one in run.head.plan.devices)


def outcome_words(run: Run) -> str:
    """What came of a run as a whole."""
    each = [(act, line) for _, act, line in run.each()]
    end = "" if run.is_over and not run.stopped else " It was stopped." if run.stopped else " It was cut off."
    return f"{settings_words(each)}{end}"


def settings_words(each: Sequence[tuple[Act, ActLine | None]]) -> str:
    """How many settings were made, and what became of the others."""
    many = Counter[State | None]()
    for act, line in each:
        many[line.state if line is not None else None] += len(act.settings)
    parts = [f"{many['done']} of {count(many.total(), 'setting')} made and read back"]
    told: tuple[tuple[State | None, str], ...] = (
        ("refused", "refused"),
        ("not taken", "other than sent"),
        ("lost", "without an answer"),
        ("begun", "not known"),
        (None, "not begun"),
    )
    parts += [f"{many[state]} {words}" for state, words in told if many[state]]
    return f"{', '.join(parts)}."


def cut_off_words(run: Run) -> tuple[str, ...]:
    """Of a run that was cut off what is not known, and where a device may be now; nothing where it came to its end."""
    if run.is_over:
        return ()
    found = []
    for device, act in run.in_state("begun"):
        at = f"; it may be at {device.address} or {device.planned_address}" if act.kind == "address" else ""
        rows = ", ".join(row.what for row in act.settings)
        found.append(f"{device.name}: {rows} was being set when it was cut off{at}.")
    return tuple(found)
