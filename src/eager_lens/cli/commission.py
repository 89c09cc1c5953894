"""`commission`: set the devices of a job as it plans them, over the network."""

from __future__ import annotations

import argparse
import contextlib
import json
import signal
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from eager_lens.assets import asset
from eager_lens.cli.check_site import agreed, following, only_of, passwords_of, site_here
from eager_lens.cli.locale import reader_for
from eager_lens.core.commission.act import DevicePlan, SetPlan
from eager_lens.core.commission.ledger import Run, ledger_beside, put_back_plan, runs_in
from eager_lens.core.commission.plan import Wishes
from eager_lens.core.commission.report import CAUTIONS, cut_off_words, intent_words, outcome_words, report_of
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.file import read_job
from eager_lens.core.units import numbers_as
from eager_lens.onsite.commission.start import planning, setting_devices

ALL_AS_PLANNED, DIFFERS = 0, 1


def run_commission(arguments: argparse.Namespace) -> int:
    """Set the devices of a job; 1 when something was not set, or stays by hand."""
    job = read_job(arguments.job or asset("demo", "brindlemoor.lens.json")).job
    only = only_of(arguments, job)
    here = site_here(arguments) if arguments.here else None
    passwords = passwords_of(arguments) if arguments.passwords else {}
    ledger = arguments.ledger or (ledger_beside(arguments.job) if arguments.job else None)
    if ledger is None and not arguments.dry_run:
        raise RefusedInput("--ledger", "the demo job is no file of yours: say where the state of the run is kept")
    with numbers_as(reader_for(arguments).style):
        before = runs_in(ledger)[-1:] if ledger is not None else []
        for words in cut_off_words(before[0]) if before else ():
            print(words, file=sys.stderr)
        wishes = Wishes(only, arguments.nearest)
        plan = (
            _put_back(before)
            if arguments.put_back
            else following(planning(job, wishes, passwords, here, arguments.ask_right), arguments.json)
        )
        if not arguments.json:
            _print_plan(plan)
        if arguments.dry_run or not plan.to_set:
            if arguments.json:
                print(json.dumps({"plan": plan.model_dump(mode="json"), "run": None}, ensure_ascii=False))
            return ALL_AS_PLANNED if _nothing_left(plan) else DIFFERS
        print(*CAUTIONS, sep="\n", file=sys.stderr)
        if not arguments.yes and not agreed("Set them?"):
            return DIFFERS
        assert ledger is not None
        with _stop_file() as stop:
            run = following(
                setting_devices(job, plan, passwords, here, ledger, stop, arguments.ask_right, arguments.put_back),
                arguments.json,
            )
        _say(arguments, plan, run)
    return ALL_AS_PLANNED if all(one.is_as_planned for one in report_of(run)) else DIFFERS


def _put_back(before: list[Run]) -> SetPlan:
    if not before:
        raise RefusedInput("--put-back", "no run is kept for this job")
    plan = put_back_plan(before[0])
    if not plan.devices:
        raise RefusedInput("--put-back", "the last run set nothing that can be put back; users and passwords stay")
    return plan


def _nothing_left(plan: SetPlan) -> bool:
    return not any(one.acts or one.by_hand or one.refused for one in plan.devices)


@contextlib.contextmanager
def _stop_file() -> Iterator[Path]:
    """A file that Ctrl+C makes: the setting that runs is finished first. A second Ctrl+C ends it in the middle."""
    with tempfile.TemporaryDirectory(prefix="eager-lens-") as folder:
        stop = Path(folder) / "stop"
        before = signal.getsignal(signal.SIGINT)

        def interrupted(number: int, frame: Any) -> None:
            if stop.exists():
                raise KeyboardInterrupt
            stop.touch()
            print("\nIt stops after the settings that are being made. Ctrl+C again: at once.", file=sys.stderr)

        signal.signal(signal.SIGINT, interrupted)
        try:
            yield stop
        finally:
            signal.signal(signal.SIGINT, before)


def _print_plan(plan: SetPlan) -> None:
    for words in plan.not_reached:
        print(f"Not reached: {words}")
    for one in plan.devices:
        print(f"{one.name} ({one.address or one.planned_address or 'no address'})")
        _print_rows(one)
    print(intent_words(plan))


def _print_rows(one: DevicePlan) -> None:
    if one.refused:
        print(f"   nothing is sent: {one.refused}")
    for act in one.acts:
        for row in act.settings:
            note = f"   ({row.note})" if row.note else ""
            print(f"   {row.what}: {row.now} → {row.will_be}{note}")
    for hand in one.by_hand:
        print(f"   by hand: {hand.what}: {hand.why}")


def _say(arguments: argparse.Namespace, plan: SetPlan, run: Run) -> None:
    if arguments.json:
        lines = [line.model_dump(mode="json") for line in run.lines]
        told = {"lines": lines, "over": run.is_over, "stopped": run.stopped}
        print(json.dumps({"plan": plan.model_dump(mode="json"), "run": told}, ensure_ascii=False))
        return
    for device in report_of(run):
        for act in device.acts:
            if act.line is None or act.line.state != "done":
                print(f"{device.plan.name}: {', '.join(row.what for row in act.act.settings)}: {act.words}")
        for words in device.approximated:
            print(f"{device.plan.name}: near what is planned: {words}")
    print(outcome_words(run))
