"""The ways out of a finding, and what each of them changes: days, watts, volts, Mb/s, parts, findings."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import NamedTuple

from eager_lens.core.assess.assessment import Assessment, assess
from eager_lens.core.assess.figures.devices import days_words
from eager_lens.core.assess.finding import Finding, Severity, WayOut
from eager_lens.core.assess.rules.registering import NOT_REGISTERED
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit
from eager_lens.core.options.remedies.capping import cap_rates, more_days
from eager_lens.core.options.remedies.devices import (
    connect_loose,
    join_networks,
    larger_switch,
    mark_idle_as_spare,
    more_channels,
)
from eager_lens.core.options.remedies.long_run import long_run
from eager_lens.core.options.remedies.powering import give_power, powered_port
from eager_lens.core.options.remedies.settings import (
    another_codec,
    other_twin,
    serve_purpose,
    smaller_picture,
    usual_power,
)
from eager_lens.core.present.parts import more_than, parts_list
from eager_lens.core.units import count, figure

Maker = Callable[[Finding, Assessment], Iterator[Edit]]

MAKERS: dict[WayOut, Maker] = {
    "another run": long_run,
    "connect": connect_loose,
    "join networks": join_networks,
    "larger switch": larger_switch,
    "powered port": powered_port,
    "feed": give_power,
    "more channels": more_channels,
    "serve purpose": serve_purpose,
    "smaller picture": smaller_picture,
    "another codec": another_codec,
    "less power": usual_power,
    "other twin": other_twin,
    "more days": more_days,
    "cap": cap_rates,
    "cap what comes in": cap_rates,
    "cap what a link carries": cap_rates,
    "cap what the air carries": cap_rates,
    "cap what is uploaded": cap_rates,
}
"""What makes the choices that a kind of finding asks for."""

MOST_PARTS, MOST_NEW = 4, 3


class Remedy(NamedTuple):
    """A way out: its edit, and what it changes, line by line."""

    edit: Edit
    changes: tuple[str, ...]


def may_have_remedies(finding: Finding) -> bool:
    """Whether there are ways out to choose from; which, only ``remedies`` knows, and takes longer."""
    kind = finding.kind
    settled = kind == NOT_REGISTERED and finding.fix is not None
    return bool(kind.way_out or kind.of_what_is_missing) and bool(finding.subjects) and not settled


def remedies(finding: Finding, assessment: Assessment) -> list[Remedy]:
    """The ways out of a finding that take it away and bring no new fault, with what each changes."""
    found = []
    for edit in _edits(finding, assessment) if finding.subjects else ():
        try:
            after = assess(edit.apply(assessment.job), assessment)
        except RefusedInput:
            continue
        had = {one.key for one in assessment.findings}
        fresh = [one for one in after.findings if one.key not in had and not _is_part_of(one, assessment.findings)]
        stays = any(one.key == finding.key for one in after.findings)
        if not stays and not any(one.severity is Severity.FAULT and not one.kind.settled_after for one in fresh):
            found.append(Remedy(edit, tuple(_changes(finding, assessment, after, fresh))))
    return found


def _is_part_of(finding: Finding, earlier: Iterable[Finding]) -> bool:
    """Whether a finding says of some what an earlier one said of them and of more."""
    return any(one.kind == finding.kind and set(finding.subjects) < set(one.subjects) for one in earlier)


def _edits(finding: Finding, assessment: Assessment) -> Iterator[Edit]:
    if finding.kind.way_out is not None:
        yield from MAKERS[finding.kind.way_out](finding, assessment)
    if finding.kind.of_what_is_missing:
        yield from mark_idle_as_spare(finding, assessment)


def consequences(before: Assessment, after: Assessment) -> list[str]:
    """What a change that is no way out of a finding makes of days, Mb/s and findings."""
    had = {one.key for one in before.findings}
    fresh = [one for one in after.findings if one.key not in had]
    return [*days_and_loads(before, after), *_findings(before, after, fresh, least=1)]


def _changes(finding: Finding, before: Assessment, after: Assessment, fresh: list[Finding]) -> Iterator[str]:
    """What is other afterwards."""
    yield from days_and_loads(before, after)
    yield from _volts_and_watts(finding, before, after)
    parts = more_than(parts_list(after.facts), parts_list(before.facts))
    # A camera that is set otherwise is not another camera.
    bought = [
        f"{part.what} ({part.quantity_words()})" for part in parts if part.group != "Cameras" and part.unit != "runs"
    ]
    if bought:
        more = f" and {len(bought) - MOST_PARTS} more" if len(bought) > MOST_PARTS else ""
        yield f"To buy: {', '.join(bought[:MOST_PARTS])}{more}"
    yield from _findings(before, after, fresh, least=2)


def _findings(before: Assessment, after: Assessment, fresh: list[Finding], least: int) -> Iterator[str]:
    now = {one.key for one in after.findings}
    settled = sum(one.key not in now for one in before.findings if one.severity > Severity.NOTE)
    if settled >= least:
        yield f"Settles {count(settled, 'finding')}"
    codes = {one.code for one in before.findings}
    for one in [one for one in fresh if one.severity > Severity.NOTE and one.code not in codes][:MOST_NEW]:
        yield f"New {one.severity.word}: {one.title}"


def days_and_loads(before: Assessment, after: Assessment) -> Iterator[str]:
    for recorder in after.job.recorders:
        now = after.recorder(recorder.id)
        was = before.facts.recorder_figures.get(recorder.id)
        if was is None:
            continue
        if was.keeps != now.keeps or (
            was.promised_days is not None
            and now.promised_days is not None
            and _differ(was.promised_days, now.promised_days)
        ):
            days = (days_words(one.promised_days, one.keeps) for one in (was, now))
            yield f"{recorder.name} promises {' → '.join(days)} days"
        if _differ(was.incoming_mbps, now.incoming_mbps):
            yield f"{recorder.name} incoming {figure(was.incoming_mbps)} → {figure(now.incoming_mbps)} Mb/s"


def _volts_and_watts(finding: Finding, before: Assessment, after: Assessment) -> Iterator[str]:
    cameras = {camera.id: camera for camera in after.job.cameras}
    for subject in finding.subjects[:2]:
        if subject in cameras and subject in before.facts.camera_figures:
            was, now = before.facts.run_of(before.facts.find_camera(subject)), after.facts.run_of(cameras[subject])
            then = "none" if now is None or now.device_v is None else f"{figure(now.device_v)} V"
            had = "none" if was is None or was.device_v is None else f"{figure(was.device_v)} V"
            if had != then:
                yield f"{cameras[subject].name} gets {had} → {then}"
    for device in after.facts.suppliers:
        was_w = before.facts.topology.supplies.get(device.id)
        now_w = after.facts.topology.supplies.get(device.id)
        drew, draws = (0.0 if one is None else one.draw_w for one in (was_w, now_w))
        budgets = getattr(before.facts.by_device_id.get(device.id), "budget_w", 0.0), device.budget_w
        if _differ(drew, draws):
            yield f"{device.name} supplies {figure(drew)} → {figure(draws)} W of {figure(device.budget_w)}"
        elif _differ(*budgets) and draws:
            yield f"PoE budget of {device.name} {figure(budgets[0])} → {figure(budgets[1])} W, {figure(draws)} W drawn"


def _differ(one: float, other: float) -> bool:
    return figure(one) != figure(other)
