"""Rules whose findings are kept from edit to edit: those that go through all devices say which fields they read."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.finding import Finding
from eager_lens.core.job.changes import DEVICE_MODELS, Changes, checked_names

Rule = Callable[[Facts], Iterator[Finding]]


def of_devices(*fields: str) -> tuple[str, ...]:
    """Fields that every device has, by their lists."""
    return tuple(f"{devices}.{field}" for devices in DEVICE_MODELS for field in fields)


NAMES = checked_names(*of_devices("name"))
"""Names of devices. Findings tell them; hardly a rule judges by them."""

_READS: dict[Rule, frozenset[str]] = {}
_JUDGES_BY_NAMES: set[Rule] = set()


def reads(*names: str, judges_by_names: bool = False) -> Callable[[Rule], Rule]:
    """Say of a rule that it looks at these lists and fields of the job alone; a device that comes or goes counts as all of
    its fields. Unless it judges by the names of devices, one that found nothing finds nothing when some are renamed.

    A test notes which fields are read, and compares with rules that run anew.
    """

    def say(rule: Rule) -> Rule:
        _READS[rule] = checked_names(*names)
        if judges_by_names:
            _JUDGES_BY_NAMES.add(rule)
        return rule

    return say


def kept_by(rule: Rule) -> frozenset[str] | None:
    """The lists and fields that decide whether a rule's findings still hold; None for a rule that is asked every time."""
    return _READS.get(rule)


def only_tells_names(rule: Rule) -> bool:
    """Whether names of devices stand in a rule's words alone, and decide nothing."""
    return rule in _READS and rule not in _JUDGES_BY_NAMES


def still_holds(rule: Rule, found: Sequence[Finding], since: Changes) -> bool:
    """Whether a rule would find now what it found before these changes."""
    names = kept_by(rule)
    if names is None:
        return False
    touched = since.names & names
    return not touched or (not found and touched <= NAMES and only_tells_names(rule))
