"""What stands on a field sheet, and the one HTML file that it is."""

from __future__ import annotations

import json
import secrets
from collections.abc import Collection
from typing import Any

from eager_lens.assets import asset
from eager_lens.core.acceptance.planned import planned
from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.proof import site_tests, tests_on
from eager_lens.core.field_sheet.saved import FORMAT, VERSION
from eager_lens.core.job.model import Camera, Device
from eager_lens.core.job.proving import latest_checks
from eager_lens.core.reference.acceptance import SITE, AcceptanceTest
from eager_lens.core.runbook.mounting import steps_with

JOINT = " · "


def field_sheet(assessment: Assessment, made_at: str, only: Collection[str] = (), sheet_id: str = "") -> str:
    """A field sheet as HTML: it needs no network, no installation and no other file.

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
    return page


def _part(name: str) -> str:
    return asset("field_sheet", name).read_text("utf-8")


def sheet_data(assessment: Assessment, made_at: str, only: Collection[str], sheet_id: str) -> dict[str, Any]:
    """What the sheet holds, as plain values. ``base`` is the state that it was made from: against it the job's later changes
    are known when what was filled in comes back."""
    job, facts = assessment.job, assessment.facts
    ticks = {tick.step: tick for tick in job.mounting}
    tests: dict[str, Any] = {}
    steps: dict[str, Any] = {}
    rows = []
    # Cameras first: there are most of them, and each is stood before.
    devices = sorted(facts.devices, key=lambda device: not isinstance(device, Camera))
    for device in devices:
        if not only or device.id in only:
            row = _device_row(device, assessment, tests)
            own: dict[str, str] = {}
            for one in steps_with(device, assessment, ticks):
                kept = steps.setdefault(
                    one.step.id, {"stage": one.step.stage, "text": one.text, "caution": one.step.caution}
                )
                if kept["text"] != one.text:
                    own[one.step.id] = one.text
                row["steps"].append(one.step.id)
            if own:
                row["own"] = own
            rows.append(row)
    if not only or SITE in only:
        whole = [_test_row(test, SITE, assessment, tests) for test in site_tests(facts)]
        rows.append(
            {
                "id": SITE,
                "name": "Whole site",
                "place": job.site,
                "address": "",
                "facts": "",
                "steps": [],
                "tests": whole,
            }
        )
    shown = {row["id"] for row in rows}
    return {
        "format": FORMAT,
        "version": VERSION,
        "id": sheet_id,
        "job": job.name,
        "made_at": made_at,
        "tests": tests,
        "steps": steps,
        "devices": rows,
        "base": base_of(assessment, shown),
    }


def _device_row(device: Device, assessment: Assessment, tests: dict[str, Any]) -> dict[str, Any]:
    facts = assessment.facts
    label = JOINT.join(part for part in (device.make, device.address, device.mac_address, device.serial) if part)
    return {
        "id": device.id,
        "name": device.name,
        "place": device.place,
        "address": device.address,
        "facts": label,
        "tests": [_test_row(test, device.id, assessment, tests) for test in tests_on(facts, device)],
        "steps": [],
    }


def _test_row(test: AcceptanceTest, device_id: str, assessment: Assessment, tests: dict[str, Any]) -> list[Any]:
    tests.setdefault(test.id, {name: getattr(test, name) for name in ("label", "how", "value", "unit", "caution")})
    plan = planned(test, device_id, assessment)
    return [test.id, plan.words, plan.low, plan.high]


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
