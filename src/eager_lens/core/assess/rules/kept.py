"""Rules whose findings are kept from edit to edit: those that go through all devices say which fields they read."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from eager_lens.core.assess.facts import Facts
from eager_lens.core.assess.finding import Finding
from eager_lens.core.job.changes import DEVICE_MODELS, Changes, checked_names

Rule = Callable[[Facts], Iterator[Finding]]


def of_devices(*fields: str) -> tuple[str, ...]:
    """Fields that every device has, by their lists."""
    return tuple(f"{devices}.{field}" for devices in DEVICE_MODELS for field in fields)


_READS: dict[Rule, frozenset[str]] = {}


def reads(*names: str) -> Callable[[Rule], Rule]:
    """Say of a rule that it looks at these lists and fields of the job alone; a device that comes or goes counts as all of
    its fields.

    A test notes which fields are read, and compares with rules that run anew.
    """

    def say(rule: Rule) -> Rule:
        _READS[rule] = checked_names(*names)
        return rule

    return say


def kept_by(rule: Rule) -> frozenset[str] | None:
    """The lists and fields that decide whether a rule's findings still hold; None for a rule that is asked every time."""
    return _READS.get(rule)


def still_holds(rule: Rule, since: Changes) -> bool:
    """Whether a rule would find now what it found before these changes."""
    names = kept_by(rule)
    return names is not None and not since.touch(names)
