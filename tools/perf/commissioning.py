"""``perf --site``, second part: sites out of the box set over the network to the plan, and what a plan takes by hand and with the
program."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from tools.perf.site import large

from eager_lens.core.assess.assessment import assess
from eager_lens.core.commission.ledger import ledger_beside
from eager_lens.core.job.edits import with_parts
from eager_lens.core.job.file import job_text
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.job.model import Job, changed
from eager_lens.core.runbook.commissioning import commissioning
from eager_lens.core.runbook.timing import duration_s, scheduled
from eager_lens.core.runbook.ways import Ways
from eager_lens.core.runbook.with_program import effort, with_program

START_S = 5.0
MAKES = (
    MakeProfile(make="Sample camera", first_address="172.30.0.50", open_protocol_on=True, start_s=START_S),
    MakeProfile(make="Sample recorder", first_address="172.30.0.60", open_protocol_on=True, start_s=START_S),
)


def boxed(many: int) -> Job:
    """A job of so many cameras that share one address out of the box, each known by its label."""
    job = large(many)

    def labels(at: int, make: str, block: int) -> dict[str, str]:
        mac = f"02:5b:{block:02x}:00:{at // 256:02x}:{at % 256:02x}"
        return {"make": make, "serial": f"S{block}-{at}", "mac_address": mac}

    cameras = tuple(changed(one, **labels(at, MAKES[0].make, 1)) for at, one in enumerate(job.cameras, 1))
    recorders = tuple(changed(one, **labels(at, MAKES[1].make, 2)) for at, one in enumerate(job.recorders, 1))
    return with_parts(job, cameras=cameras, recorders=recorders, make_profiles=MAKES)


def set_from_the_box(cameras: int) -> None:
    """Start a site out of the box, set it, check it; print what that took, and what was not as planned."""
    job = boxed(cameras)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "job.lens.json"
        path.write_text(job_text(job), "utf-8")
        own = {**os.environ, "XDG_RUNTIME_DIR": folder, "XDG_CACHE_HOME": folder}
        command = [sys.executable, "-m", "eager_lens"]
        site = subprocess.Popen(
            [*command, "site", str(path), "--json", "--for", "1800", "--out-of-box", "--start", f"{START_S:g}"],
            env=own,
            stdout=subprocess.PIPE,
            text=True,
        )
        assert site.stdout is not None
        note = json.loads(site.stdout.readline())
        begun_s = time.monotonic()
        done = subprocess.run(
            [*command, "commission", str(path), "--here", "--yes", "--json"],
            env=own,
            capture_output=True,
            text=True,
            check=False,
        )
        set_s = time.monotonic() - begun_s
        told = json.loads(done.stdout)
        begun_s = time.monotonic()
        given = ["--here", "--yes", "--json", "--without", "stream", "--without", "sweep"]
        checked = subprocess.run(
            [*command, "check-site", str(path), *given], env=own, capture_output=True, text=True, check=False
        )
        check_s = time.monotonic() - begun_s
        site.terminate()
        site.wait()
        kept_bytes = ledger_beside(path).stat().st_size
    lines = told["run"]["lines"]
    last = {(line["device"], line["act"]): line["state"] for line in lines}
    acts = sum(len(one["acts"]) for one in told["plan"]["devices"])
    shared = sum(one["shared"] for one in told["plan"]["devices"])
    rows = [row for row in json.loads(checked.stdout)["rows"] if row["device"] and row["device"].startswith("cam")]
    good = sum(row["severity"] in (None, "note") and row["compared"] for row in rows)
    done_acts = list(last.values()).count("done")
    print(
        f"{cameras} cameras, {shared} of them on one address, {len(note['left_out'])} left out: {set_s:.0f} s to look, set and "
        f"read back {done_acts} of {acts} steps, {check_s:.0f} s to check; {good} of {len(rows)} as planned; state on disk "
        f"{kept_bytes / 1e6:.1f} MB"
    )


def who_does_what(cameras: int) -> None:
    """What the plan of a large job with usual start times takes, by hand and with the program."""
    usual = tuple(one.model_copy(update={"start_s": 90.0}) for one in MAKES)
    job = with_parts(boxed(cameras), make_profiles=usual)
    steps = commissioning(assess(job)).steps
    found, way = effort(steps), Ways(job).between_s
    each = [duration_s(scheduled(one, 2, way=way)) / 3600 for one in (steps, with_program(steps))]
    print(
        f"{cameras} cameras: {len(steps)} steps; by hand {found.hands_s / 3600:.1f} h of hands; with the program "
        f"{found.hands_left_s / 3600:.1f} h of hands and {found.program_s / 3600:.1f} h of its own; for two people on site "
        f"{each[0]:.1f} h by hand, {each[1]:.1f} h with the program"
    )
    by_kind: dict[str, list[float]] = {}
    for step in steps:
        mine = by_kind.setdefault(
            step.key.partition("/")[2] if "rec-" not in step.key.partition("/")[2] else "register", [0.0, 0.0]
        )
        mine[0] += step.hands_s / 3600
        mine[1] += 0.0 if step.program_s else step.hands_s / 3600
    for kind, (hands_h, left_h) in sorted(by_kind.items(), key=lambda one: -one[1][0])[:8]:
        print(f"  {kind:10} {hands_h:6.1f} h by hand, {left_h:6.1f} h with the program")


def faulty_runs(many: int) -> None:
    """Set so many small sites with one fault each; what went wrong is printed by what runs them."""
    print(f"{many} small sites with one fault each:", flush=True)
    begun_s = time.monotonic()
    subprocess.run([sys.executable, "-m", "tests.onsite.commission.seeded", str(many)], check=False)
    print(f"  in {time.monotonic() - begun_s:.0f} s")


def commissioned() -> None:
    """Print all of it."""
    faulty_runs(1000)
    set_from_the_box(40)
    set_from_the_box(200)
    who_does_what(500)
