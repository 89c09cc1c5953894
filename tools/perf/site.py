"""``perf --site``: the stand-ins and the site check, each in processes of its own, as they are used."""

from __future__ import annotations

import json
import os
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any, NamedTuple

from eager_lens.assets import asset
from eager_lens.core.assess.assessment import assess
from eager_lens.core.enquiry.build import job_for
from eager_lens.core.enquiry.enquiry import Enquiry, PlaceWanted, view_kinds
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.model import Job

WARM_S = 90.0
"""So long the streams of a job may be encoded before anything is timed."""


class Looked(NamedTuple):
    """What a site and a check of it took."""

    words: str
    stand_ins: int
    ready_s: float
    check_s: float
    memory_mb: float
    run: dict[str, Any]


def site() -> int:
    """Print a table; the streams are encoded before anything is timed."""
    demo = asset("demo", "brindlemoor.lens.json").read_text("utf-8")
    jobs = (
        ("the demo, 5 s of stream", demo, ()),
        ("40 cameras, 5 s of stream", job_text(large(40)), ()),
        ("200 cameras, no streams", job_text(large(200)), ("stream",)),
    )
    print(f"{'what':28} {'stand-ins':>9} {'ready, s':>9} {'check, s':>9} {'memory, MB':>10}")
    for words, text, without in jobs:
        found = _looked(words, text, without)
        print(f"{found.words:28} {found.stand_ins:9} {found.ready_s:9.1f} {found.check_s:9.1f} {found.memory_mb:10.0f}")
        if not without:
            _print_figures(found.run, text)
    from tools.perf.commissioning import commissioned

    commissioned()
    return 0


def large(cameras: int) -> Job:
    """A job of so many cameras, as an enquiry builds it."""
    kind = next(iter(view_kinds()))
    places = tuple(PlaceWanted(name=f"Hall {at}", views={kind: 20}) for at in range(1, cameras // 20 + 1))
    return job_for(Enquiry(name="Large", places=places))


def _looked(words: str, text: str, without: tuple[str, ...]) -> Looked:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "job.lens.json"
        path.write_text(text, "utf-8")
        own = {**os.environ, "XDG_RUNTIME_DIR": folder}
        if not without:
            _run_site(path, own, WARM_S).wait()
        begun_s = time.monotonic()
        process = _run_site(path, own, 600)
        assert process.stdout is not None
        note = json.loads(process.stdout.readline())
        ready_s = time.monotonic() - begun_s
        time.sleep(10)  # the recorders have looked at their channels by then
        begun_s = time.monotonic()
        command = [sys.executable, "-m", "eager_lens", "check-site", str(path), "--here", "--yes", "--json"]
        command += [word for part in without for word in ("--without", part)]
        done = subprocess.run(command, env=own, capture_output=True, text=True, check=False)
        check_s = time.monotonic() - begun_s
        process.terminate()
        process.wait()
        run = json.loads(done.stdout)["run"]
    # Of the largest child of this process: the site, the check, or what it reads in.
    memory_mb = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1000
    many = len(job_from_text(text).cameras) - len(note["left_out"])
    return Looked(words, many, ready_s, check_s, memory_mb, run)


def _run_site(path: Path, own: dict[str, str], seconds: float) -> subprocess.Popen[str]:
    command = [sys.executable, "-m", "eager_lens", "site", str(path), "--json", "--for", str(seconds)]
    return subprocess.Popen(command, env=own, stdout=subprocess.PIPE, text=True)


def _print_figures(run: dict[str, Any], text: str) -> None:
    """How near what was read comes to what is sent: the stand-ins send what is planned."""
    assessment = assess(job_from_text(text))
    cameras = {camera.id: camera for camera in assessment.job.cameras}
    rates, frames, clocks = [], [], []
    for read in run["read"]:
        camera, main = cameras.get(read["device"]), read["main"]
        if camera is not None and main is not None and main["outcome"] == "opened":
            rates.append(abs(main["mean_mbps"] / assessment.camera(camera.id).load_mbps - 1))
            frames.append(abs(main["fps"] - camera.fps))
            if read["clock_by"] == "RTCP":
                clocks.append(abs(read["clock_off_s"]))
    print(f"  {len(rates)} streams: bit rate off by {max(rates):.2%} at most, frame rate by {max(frames):.3f} fps,")
    ordered = sorted(clocks)
    print(f"  clock by {1000 * ordered[-1]:.0f} ms at most, {1000 * ordered[len(ordered) // 2]:.0f} ms in the middle")
