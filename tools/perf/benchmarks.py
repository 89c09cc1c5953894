"""``perf``: the benchmarks, each as a ratio against a reference measured in the same run."""

from __future__ import annotations

import compileall
import json
import os
import random
import statistics
import subprocess
import sys
import tempfile
import time
from dataclasses import asdict
from pathlib import Path

from tools.perf.measuring import Measurement, exponent, median_ms
from tools.perf.motion import motion

import eager_lens
from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.devices import camera_figures
from eager_lens.core.assess.figures.promised import keeping_of
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import (
    add_cameras,
    add_recorder,
    add_schedule,
    add_subnet,
    paint_schedule,
    set_fields,
    with_parts,
)
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.model import Job, Link, NetworkDevice, Registration, changed
from eager_lens.core.planning.addressing import plan_all
from eager_lens.core.planning.attaching import attached
from eager_lens.core.planning.registering import fill_the_channels
from eager_lens.core.recording.week import DAYS, Span, WeekPlan

START_RUNS = 5
EDIT_RUNS = 15
CAMERAS_A_RECORDER = 32
CAMERAS_A_SWITCH = 20
ONE_EDIT = ((1_000, "<= 30 ms"), (10_000, "<= 250 ms"))
WIRED, ON_A_SWITCH = 2_000, 13
"""The size at which the wiring is measured: about 150 switches."""

# A window with one table and nothing else: what the toolkit itself costs up to its first painted picture.
BARE_WINDOW = """
from PySide6.QtWidgets import QApplication, QMainWindow, QTableWidget
app = QApplication([])
window = QMainWindow()
window.setCentralWidget(QTableWidget(36, 8))
window.resize(1280, 800)
window.show()
app.processEvents()
print("window painted", flush=True)
"""


def job_of(cameras: int, cameras_a_switch: int = CAMERAS_A_SWITCH) -> Job:
    """A job of so many cameras, all addressed, plugged in, registered and with a week."""
    job = add_subnet("LAN", "10.44.0.0/16", gateway="10.44.0.1").apply(Job(name="Benchmark"))
    job = add_schedule("Round the clock").apply(job)
    week = job.schedules[0].id
    job = paint_schedule(week, {day: [Span(0, 1440, "continuous")] for day in DAYS}, "paint").apply(job)
    rows = [{"name": f"Camera {n}", "place": f"Place {n // 20}", "schedule": week} for n in range(1, cameras + 1)]
    job = add_cameras(rows).apply(job)
    for _ in range(-(-cameras // CAMERAS_A_RECORDER)):
        job = add_recorder(channels=CAMERAS_A_RECORDER, drives=2, drive_tb=8, subnet="lan-1").apply(job)
    job = fill_the_channels().apply(job)
    return _wired(plan_all(job).apply(job), cameras_a_switch)


def _wired(job: Job, cameras_a_switch: int) -> Job:
    """Cameras by so many on switches, those and the recorders on one large switch."""
    middle = NetworkDevice(id="net-0", name="Middle", ports=1024)
    switches = [
        NetworkDevice(id=f"net-{n}", name=f"Switch {n}", ports=28, poe_ports=24, budget_w=370)
        for n in range(1, -(-len(job.cameras) // cameras_a_switch) + 1)
    ]
    pairs = [(camera.id, switches[at // cameras_a_switch].id) for at, camera in enumerate(job.cameras)]
    pairs += [(device.id, middle.id) for device in (*switches, *job.recorders)]
    links = tuple(Link(id=f"link-{at}", a=a, b=b) for at, (a, b) in enumerate(pairs, 1))
    return with_parts(job, network=(middle, *switches), links=links)


ON_A_BENCH_SWITCH = 30


def run(as_json: bool, only_motion: bool = False) -> int:
    """Measure and print all benchmarks, or those of motion."""
    rows = (
        motion()
        if only_motion
        else [
            *start_up(),
            *(one_edit(cameras, CAMERAS_A_SWITCH, f"{cameras:,} cameras", wanted) for cameras, wanted in ONE_EDIT),
            one_edit(WIRED, ON_A_SWITCH, f"{WIRED:,} cameras, {-(-WIRED // ON_A_SWITCH)} switches", "<= 100 ms"),
            failing(WIRED * 2),
            opening(10_000),
            connecting(10_000),
            promised(1_000),
            programme(),
            clip(),
            *bench(),
            *motion(),
        ]
    )
    if as_json:
        print(json.dumps([asdict(row) for row in rows], indent=2))
        return 0
    for row in rows:
        places = 1 if row.unit else 4
        against = f"{row.ratio:5.2f} x {row.reference} ({row.reference_ms:.{places}f} {row.unit})"
        grows = "" if row.growth is None else f"grows by n^{row.growth:.2f}"
        print(f"{row.name:38} {row.ms:8.{places}f} {row.unit:2}   {against:64} {grows:16} wanted: {row.wanted}")
    return 0


def start_up() -> list[Measurement]:
    """Cold start of the demo, against a bare window; new processes, in turns.

    Timed twice: until the window is in sight (still empty), and until the demo job is drawn in it. The program's modules are
    compiled, as they are after its set-up.
    """
    compileall.compile_dir(Path(eager_lens.__file__).parent, quiet=2)
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    demo = [sys.executable, "-m", "eager_lens", "demo", "--tell", "--for", "60"]
    bare = [sys.executable, "-c", BARE_WINDOW]
    rows: list[tuple[float, float, float]] = []
    for at in range(START_RUNS + 1):
        seen, drawn = _line_times_ms(demo, environment, 2)
        (reference,) = _line_times_ms(bare, environment, 1)
        if at:  # the first pair fills the disk's cache
            rows.append((seen, drawn, reference))
    seen, drawn, reference = (statistics.median(column) for column in zip(*rows, strict=True))
    against = "a bare window with a table"
    return [
        Measurement("cold start, window in sight", seen, against, reference, seen / reference, "<= 1.5 x"),
        Measurement("cold start, demo job drawn", drawn, against, reference, drawn / reference, "<= 3.5 x"),
    ]


def _line_times_ms(command: list[str], environment: dict[str, str], lines: int) -> list[float]:
    """How long after its start a process printed each of its first lines; it is ended then."""
    begun = time.perf_counter()
    times = []
    with subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL) as process:
        assert process.stdout is not None
        for _ in range(lines):
            if not process.stdout.readline():
                raise RefusedInput("", f"{' '.join(command[:3])} ended before its window was painted")
            times.append(1000 * (time.perf_counter() - begun))
        process.kill()
    return times


def one_edit(cameras: int, a_switch: int, size: str, wanted: str) -> Measurement:
    """One edit with all figures and findings fresh, against the whole assessment from nothing."""
    quarter, _ = _edit_ms(job_of(cameras // 4, a_switch))
    ms, whole = _edit_ms(job_of(cameras, a_switch))
    return Measurement(
        f"one edit, {size}",
        ms,
        f"assessing it from nothing, {ms / cameras * 1000:.1f} µs a camera",
        whole,
        ms / whole,
        wanted,
        growth=exponent(quarter, ms),
    )


def _edit_ms(job: Job) -> tuple[float, float]:
    """The time of an edit, and that of assessing the job from nothing."""
    assessment = assess(job)
    whole = median_ms(lambda: assess(job), 3)
    times = []
    for at in range(EDIT_RUNS):
        begun = time.perf_counter()
        job = set_fields(["cam-5"], "Set frame rate", fps=5 + at).apply(job)
        assessment = assess(job, assessment)
        times.append(1000 * (time.perf_counter() - begun))
    return statistics.median(times), whole


def failing(cameras: int) -> Measurement:
    """What every single part takes with it, against assessing the job."""

    def timed(size: int) -> tuple[float, float]:
        job = job_of(size, ON_A_SWITCH)
        job = with_parts(job, network=(changed(job.network[0], role="router", upload_mbps=50), *job.network[1:]))
        # Worked out when it is asked for, so each assessment is asked once: a difference of two medians could be less
        # than nothing.
        assessments = [assess(job) for _ in range(3)]
        times = [median_ms(lambda one=one: len(one.facts.failures), 1) for one in assessments]  # type: ignore[misc]
        return statistics.median(times), median_ms(lambda: assess(job), 3)

    (quarter, _), (ms, whole) = timed(cameras // 4), timed(cameras)
    name = f"all single failures, {cameras:,} cameras"
    return Measurement(name, ms, "assessing it from nothing", whole, ms / whole, "<= 2 s", growth=exponent(quarter, ms))


def opening(cameras: int) -> Measurement:
    """Reading and assessing a job file, against reading its text as plain JSON."""

    def timed(size: int) -> tuple[float, float]:
        text = job_text(job_of(size))
        return median_ms(lambda: assess(job_from_text(text)), 3), median_ms(lambda: json.loads(text), 3)

    (quarter, _), (ms, plain) = timed(cameras // 4), timed(cameras)
    name, grows = f"opening {cameras:,} cameras", exponent(quarter, ms)
    return Measurement(name, ms, "parsing the file's JSON", plain, ms / plain, "<= 2 s", growth=grows)


def connecting(cameras: int) -> Measurement:
    """Putting loose cameras on switches of their own, against assessing the job."""

    def timed(size: int) -> tuple[float, float]:
        job = with_parts(job_of(size), network=(), links=())
        return median_ms(lambda: attached(job, "LAN"), 3), median_ms(lambda: assess(job), 3)

    (quarter, _), (ms, whole) = timed(cameras // 4), timed(cameras)
    name, grows = f"connecting {cameras:,} loose cameras", exponent(quarter, ms)
    return Measurement(name, ms, "assessing it from nothing", whole, ms / whole, "<= 2 s", growth=grows)


def promised(cameras: int) -> Measurement:
    """The promise of a recorder with so many cameras, against the figures of its cameras, which it goes by."""
    busy = WeekPlan(**dict.fromkeys(DAYS, (Span(0, 600, "continuous"), Span(600, 1440, "motion"))))

    def timed(size: int) -> tuple[float, float]:
        job = job_of(size)
        registered = [Registration(recorder="rec-1", channel=at) for at in range(1, size + 1)]
        all_on_one = tuple(
            changed(camera, registered=(place,)) for camera, place in zip(job.cameras, registered, strict=True)
        )
        job = with_parts(job, cameras=all_on_one, schedules=(changed(job.schedules[0], plan=busy),))
        facts = assess(job).facts
        cameras_on, streams = facts.cameras_on["rec-1"], facts.streams_on["rec-1"]

        def promise() -> float:
            keeping = keeping_of(facts.calendar, job.activity, 20.0, cameras_on, streams)
            return 0.0 if keeping is None else keeping.promised()

        hours = facts.schedule_hours[job.schedules[0].id]
        figures = median_ms(lambda: [camera_figures(camera, hours) for camera in cameras_on], 5)
        return median_ms(promise, 5), figures

    (quarter, _), (ms, figures) = timed(cameras // 4), timed(cameras)
    name, grows = f"the promise of {cameras:,} cameras", exponent(quarter, ms)
    return Measurement(name, ms, "the figures of its cameras", figures, ms / figures, "<= 2", growth=grows)


def programme() -> Measurement:
    """One of twenty settings for each of 200 cameras, against the same for half as many."""
    from eager_lens.core.options.best.programme import Limit, Option, best_choice

    def solved(cameras: int) -> float:
        chance = random.Random(1)
        things = []
        for _ in range(cameras):
            rate = chance.uniform(0.3, 1.5)
            things.append([Option(rate * 1.2**at, 5 * (at + chance.random()) ** 0.5) for at in range(20)])
        everyone = dict.fromkeys(range(cameras), 10.8 * 31)
        links = [
            Limit(f"link {at}", dict.fromkeys(range(at, cameras, 8), 1.0), cameras * 0.45, "Mb/s") for at in range(8)
        ]
        limits = [Limit("space", everyone, cameras * 900.0, "GB"), *links]
        return median_ms(lambda: best_choice(things, limits), 3)

    quarter, half, whole = solved(50), solved(100), solved(200)
    name, grows = "best of 200 cameras x 20 settings", exponent(quarter, whole)
    return Measurement(name, whole, "half the cameras", half, whole / half, "<= 5 s", growth=grows)


def clip() -> Measurement:
    """The container data of ten minutes of 1080p, against reading the file's bytes."""
    from eager_lens.core.clip.container import measured_rate
    from eager_lens.core.clip.drawn import Drawn, write_clip, write_repeated

    with tempfile.TemporaryDirectory() as folder:
        short = write_clip(Path(folder) / "short.mkv", Drawn(1920, 1080, 15, 2, 3.0))
        part = write_repeated(short, Path(folder) / "part.mp4", 75)
        path = write_repeated(short, Path(folder) / "long.mp4", 300)
        plain = median_ms(path.read_bytes, 3)
        quarter, ms = median_ms(lambda: measured_rate(part), 3), median_ms(lambda: measured_rate(path), 3)
    name, wanted = "measuring 10 minutes of 1080p", "<= 30 s, a 20th of its length"
    return Measurement(name, ms, "reading the file's bytes", plain, ms / plain, wanted, growth=exponent(quarter, ms))


def bench() -> list[Measurement]:
    """A simulated day of 200 devices, their commissioning played first; against the same with half the cameras."""
    from eager_lens.core.job.rehearsal import Rehearsal
    from eager_lens.core.runbook.commissioning import commissioning
    from eager_lens.core.runbook.play import played
    from eager_lens.core.runbook.timing import scheduled
    from eager_lens.core.simulation.build import site_of

    def timed(cameras: int) -> tuple[int, float, float]:
        assessment = assess(job_of(cameras, ON_A_BENCH_SWITCH))
        begun = time.perf_counter()
        placed = scheduled(commissioning(assessment).steps, 2)
        planned = time.perf_counter()
        site = site_of(assessment, Rehearsal())
        played(site, placed)
        site.run_to(max(86_400.0, site.now_s))
        return len(site.units), 1000 * (planned - begun), 1000 * (time.perf_counter() - planned)

    (_, part_plan, part_day), (_, half_plan, half_day), (devices, plan, day) = timed(46), timed(93), timed(185)
    name, half, grows = "commissioning planned, 185 cameras", "half the cameras", exponent(part_plan, plan)
    day_name, day_grows = f"a simulated day of {devices} devices", exponent(part_day, day)
    return [
        Measurement(name, plan, half, half_plan, plan / half_plan, "<= 1 s", growth=grows),
        Measurement(day_name, day, half, half_day, day / half_day, "<= 5 s", growth=day_grows),
    ]
