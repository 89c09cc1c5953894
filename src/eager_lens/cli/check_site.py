"""`check-site`: look at every device of a job over the network."""

from __future__ import annotations

import argparse
import getpass
import json
import sys
from collections.abc import Generator
from pathlib import Path
from typing import TypeVar, cast

import platformdirs

from eager_lens.assets import asset
from eager_lens.cli.locale import reader_for
from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.finding import Severity
from eager_lens.core.errors import RefusedInput
from eager_lens.core.files import write_whole
from eager_lens.core.job.file import ENDING, read_job
from eager_lens.core.job.model import Job, changed
from eager_lens.core.outgoing.formats.table_out import csv_bytes, xlsx_bytes
from eager_lens.core.outgoing.handover.convert import require_free
from eager_lens.core.outgoing.site_check_table import run_table
from eager_lens.core.records.sealed.seen import is_older
from eager_lens.core.records.sealed.vault import open_vault, sealed_path
from eager_lens.core.site_check.readings import CheckRun, Switches
from eager_lens.core.site_check.run_file import keep_run, latest_run
from eager_lens.core.site_check.since import changes
from eager_lens.core.site_check.verdicts import Row, headline, rows_of
from eager_lens.core.units import numbers_as
from eager_lens.onsite.check.start import checking_site, intended
from eager_lens.onsite.here import SiteHere, sites_here

ONLY_WHERE_ASKED = "Check only networks that you have been asked to work on."
PARTS = ("search", "sweep", "log_in", "stream", "substream", "clock", "channels", "events")
Ended = TypeVar("Ended")
WRITTEN = {".csv", ".xlsx", ".jsonl"}


def run_check_site(arguments: argparse.Namespace) -> int:
    """Check a site; 1 when something differs from the plan."""
    switches = _switches(arguments)
    if arguments.out is not None and arguments.out.suffix.lower() not in WRITTEN:
        raise RefusedInput(
            "--out", f"{arguments.out.name}: the file ending must be one of {', '.join(sorted(WRITTEN))}"
        )
    if arguments.out is not None and arguments.out.suffix.lower() != ".jsonl":
        require_free(arguments.out, arguments.replace)
    earlier = latest_run(arguments.since) if arguments.since else None
    job = read_job(arguments.job or asset("demo", "brindlemoor.lens.json")).job
    switches = changed(switches, only=only_of(arguments, job))
    here = site_here(arguments) if arguments.here else None
    words = intended(job, switches, here)
    if arguments.what or not arguments.yes:
        print("What will be sent:", *words, sep="\n  ", file=sys.stderr)
    if arguments.what:
        return 0
    if not arguments.yes and not agreed("Start?"):
        return 1
    passwords = passwords_of(arguments) if arguments.passwords else {}
    run = following(checking_site(job, switches, passwords, here), arguments.json)
    assessment = assess(job)
    rows = rows_of(assessment, run)
    if arguments.out is not None:
        _write(arguments.out, rows, run)
    if arguments.json:
        print(
            json.dumps(
                {"run": run.model_dump(mode="json"), "rows": [_as_json(row) for row in rows]}, ensure_ascii=False
            )
        )
    else:
        with numbers_as(reader_for(arguments).style):
            _print(rows_of(assessment, run), run)
            for change in changes(assessment, earlier, run) if earlier is not None else ():
                print(f"Since then, {change.name}: {change.words}")
    return 1 if any(_is_open(row) for row in rows) else 0


def _is_open(row: Row) -> bool:
    """Whether a row differs from the plan, or could not be compared with it."""
    differs = row.severity is not None and row.severity > Severity.NOTE
    return differs or (row.device is not None and not row.is_compared)


def _switches(arguments: argparse.Namespace) -> Switches:
    values: dict[str, object] = {"default_passwords": arguments.default_passwords, "stream_s": arguments.seconds}
    for name in arguments.without:
        part = name.replace("-", "_")
        if part not in PARTS:
            raise RefusedInput("--without", f"{name!r} is not a part of the check; the parts are {', '.join(PARTS)}")
        values[part] = False
    if not 2 <= arguments.seconds <= 600:
        raise RefusedInput("--seconds", f"{arguments.seconds:g} was given; 2 to 600 are allowed")
    return Switches.model_validate(values)


def only_of(arguments: argparse.Namespace, job: Job) -> tuple[str, ...]:
    """The devices that were named.

    Raises:
        RefusedInput: when one is not in the job.
    """
    known = {device.id for device in job.devices()}
    for one in arguments.only:
        if one not in known:
            raise RefusedInput("--only", f"{one!r} is not the id of a device of the job")
    return tuple(arguments.only)


def site_here(arguments: argparse.Namespace) -> SiteHere:
    """The site of stand-ins of a job on this computer.

    Raises:
        RefusedInput: when there is none.
    """
    wanted = str(arguments.job.resolve()) if arguments.job else ""
    found = next((site for site in sites_here() if site.job == wanted), None)
    if found is None:
        raise RefusedInput("--here", "no stand-ins of this job run on this computer; start them with ./eager-lens site")
    return found


def agreed(question: str) -> bool:
    """Whether somebody at the terminal says yes."""
    if not sys.stdin.isatty():
        raise RefusedInput("", f"nothing was sent. {ONLY_WHERE_ASKED} Use --yes to start without the question")
    return input(f"{ONLY_WHERE_ASKED} {question} [y/N] ").strip().lower() in ("y", "yes")


def passwords_of(arguments: argparse.Namespace) -> dict[str, str]:
    """The passwords of a job by device id, out of its sealed file."""
    if arguments.job is None:
        raise RefusedInput("--passwords", "the demo job has no sealed file")
    path = sealed_path(arguments.job, ENDING)
    opened = open_vault(path, getpass.getpass(f"Passphrase of {path.name}: "))
    older = is_older(opened, Path(platformdirs.user_config_dir("eager-lens")))
    if older:
        print(f"eager-lens: {older}", file=sys.stderr)
    return dict(opened.vault.passwords)


def following(checking: Generator[float, None, Ended], quiet: bool) -> Ended:
    """Go through to the end of something, its share shown at a terminal; what came of it."""
    shown = sys.stderr.isatty() and not quiet
    while True:
        try:
            share = next(checking)
        except StopIteration as end:
            if shown:
                print(file=sys.stderr)
            return cast(Ended, end.value)
        if shown:
            print(f"\r{share:4.0%}", end="", file=sys.stderr, flush=True)


def _write(path: Path, rows: list[Row], run: CheckRun) -> None:
    if path.suffix.lower() == ".jsonl":
        keep_run(path, run)
        return
    table = run_table(rows, run)
    write_whole(path, csv_bytes(table) if path.suffix.lower() == ".csv" else xlsx_bytes([table]))


def _as_json(row: Row) -> dict[str, object]:
    return {
        "device": row.device.id if row.device is not None else None,
        "name": row.name,
        "address": row.address,
        "planned": row.planned,
        "found": row.found,
        "severity": row.severity.word if row.severity is not None else None,
        "compared": row.is_compared,
        "evidence": [one._asdict() for one in row.evidence],
        "missing": [one._asdict() for one in row.missing],
        "notes": list(row.notes),
        "lines": [{"severity": one.severity.word, "code": one.code, "words": one.words} for one in row.lines],
    }


def _print(rows: list[Row], run: CheckRun) -> None:
    print(f"{headline(rows, run)} {run.took_s:.0f} s.")
    for row in rows:
        print(f"{row.state:12} {row.name}: {row.verdict}")
        if row.severity is not None:
            print(f"{'':12}   planned {row.planned}\n{'':12}   found   {row.found}")
        if row.notes:
            print(f"{'':12}   not quite by the standard: {'; '.join(row.notes)}")
