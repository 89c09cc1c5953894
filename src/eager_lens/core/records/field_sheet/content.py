"""What stands on a field sheet, and the one HTML file that it is."""

from __future__ import annotations

import json
import secrets
from collections.abc import Collection, Sequence
from typing import Any, NamedTuple

from eager_lens.assets import asset
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.proof import site_tests, tests_on
from eager_lens.core.job.model import Camera, Device
from eager_lens.core.job.proving import latest_checks
from eager_lens.core.records.acceptance.planned import planned
from eager_lens.core.records.field_sheet.saved import FORMAT, VERSION, Base
from eager_lens.core.reference.acceptance import SITE, AcceptanceTest
from eager_lens.core.runbook.mounting import DeviceStep, steps_with

JOINT = " · "


class MadeSheet(NamedTuple):
    """A field sheet: its HTML, its own id, and the state that it was made from."""

    text: str
    id: str
    base: Base


def field_sheet(assessment: Assessment, made_at: str, only: Collection[str] = (), sheet_id: str = "") -> MadeSheet:
    """A field sheet: it needs no network, no installation and no other file.

    Args:
        assessment: of the job. made_at: local date and time. only: ids of the devices on it (and ``site``); empty: all.
        sheet_id: its own, by which what comes back is known; a new one where none is given.
    """
    data = sheet_data(assessment, made_at, only, sheet_id or secrets.token_hex(8))
    # Within a script element nothing may look like its end.
    text = json.dumps(data, ensure_ascii=False, separators=(",", ":")).replace("<", "\\u003c")
    page = _part("page.html")
    for mark, part in (("/*STYLE*/", _part("style.css")), ("/*SCRIPT*/", _part("sheet.js")), ("/*SHEET*/", text)):
        before, _, after = page.partition(mark)
        page = f"{before}{part}{after}"
    return MadeSheet(page, data["id"], Base.model_validate(data["base"]))


def _part(name: str) -> str:
    return asset("field_sheet", name).read_text("utf-8")


class _Shared:
    """What many devices share, so that it stands on the sheet once: each thing is known by its place in a list."""

    def __init__(self) -> None:
        self.things: list[Any] = []
        self._places: dict[Any, int] = {}

    def place_of(self, thing: tuple[Any, ...]) -> int:
        """The place of a thing, put behind the others where it is new."""
        at = self._places.setdefault(thing, len(self.things))
        if at == len(self.things):
            self.things.append(thing)
        return at


class _Sheet:
    """A sheet while it is filled: rows of devices, and what they share."""

    def __init__(self, assessment: Assessment) -> None:
        self.assessment = assessment
        self.tests: dict[str, Any] = {}
        self.steps: dict[str, Any] = {}
        self.test_sets, self.step_sets, self.plans = _Shared(), _Shared(), _Shared()
        self.rows: list[dict[str, Any]] = []

    def add(self, row: dict[str, Any], tests: tuple[AcceptanceTest, ...], steps: Sequence[DeviceStep] = ()) -> None:
        """Put a device on it: its tests with their plans, its steps, and those that read otherwise on it."""
        for test in tests:
            self.tests.setdefault(
                test.id, {name: getattr(test, name) for name in ("label", "how", "value", "unit", "caution")}
            )
        plans = [planned(test, row["id"], self.assessment) for test in tests]
        own = {}
        for one in steps:
            words = {"stage": one.step.stage, "text": one.text, "caution": one.step.caution}
            if self.steps.setdefault(one.step.id, words)["text"] != one.text:
                own[one.step.id] = one.text
        row["tests"] = self.test_sets.place_of(tuple(test.id for test in tests))
        row["plans"] = [self.plans.place_of((plan.words, plan.low, plan.high)) for plan in plans]
        row["steps"] = self.step_sets.place_of(tuple(one.step.id for one in steps))
        if own:
            row["own"] = own
        self.rows.append(row)


def sheet_data(assessment: Assessment, made_at: str, only: Collection[str], sheet_id: str) -> dict[str, Any]:
    """What the sheet holds, as plain values. ``base`` is the state that it was made from: against it the job's later changes
    are known when what was filled in comes back."""
    job, facts = assessment.job, assessment.facts
    ticks = {tick.step: tick for tick in job.mounting}
    sheet = _Sheet(assessment)
    # Cameras first: there are most of them, and each is stood before.
    devices = sorted(facts.devices, key=lambda device: not isinstance(device, Camera))
    for device in devices:
        if not only or device.id in only:
            sheet.add(_device_row(device), tests_on(facts, device), steps_with(device, assessment, ticks))
    if not only or SITE in only:
        whole = {"id": SITE, "name": "Whole site", "place": job.site, "address": "", "facts": ""}
        sheet.add(whole, site_tests(facts))
    return {
        "format": FORMAT,
        "version": VERSION,
        "id": sheet_id,
        "job": job.name,
        "made_at": made_at,
        "tests": sheet.tests,
        "steps": sheet.steps,
        "test_sets": sheet.test_sets.things,
        "step_sets": sheet.step_sets.things,
        "plans": sheet.plans.things,
        "devices": sheet.rows,
        "base": base_of(assessment, {row["id"] for row in sheet.rows}),
    }


def _device_row(device: Device) -> dict[str, Any]:
    facts = JOINT.join(part for part in (device.make, device.address, device.mac_address, device.serial) if part)
    return {"id": device.id, "name": device.name, "place": device.place, "address": device.address, "facts": facts}


def base_of(assessment: Assessment, shown: Collection[str]) -> dict[str, Any]:
    """What was on record of these devices when the sheet was made: the last result of each test, ticks and snags by key."""
    job = assessment.job
    return {
        "checks": {
            f"{device}/{test}": check.model_dump(mode="json", include={"outcome", "measured", "value", "by", "at"})
            for (device, test), check in latest_checks(job).items()
            if device in shown
        },
        "ticks": {
            tick.step: tick.model_dump(mode="json", include={"outcome", "by", "at"})
            for tick in job.mounting
            if tick.step.partition("/")[0] in shown
        },
        "snags": {
            snag.id: snag.model_dump(mode="json", exclude={"photos"}) for snag in job.snags if snag.device in shown
        },
    }
