"""``perf --handover``: the event log, the field sheet and the pack, against plain work on the same data."""

from __future__ import annotations

import hashlib
import json
import tempfile
import time
from collections.abc import Callable
from datetime import date, datetime
from pathlib import Path

from tools.perf.benchmarks import job_of

from eager_lens.assets import asset
from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.model import Job
from eager_lens.core.outgoing.handover.pack import PackPlan, pack_files
from eager_lens.core.records.event_log.entry import Event
from eager_lens.core.records.event_log.log_file import append
from eager_lens.core.records.event_log.verify import verify
from eager_lens.core.records.field_sheet.content import field_sheet

ENTRIES = 100_000


def handover() -> int:
    """Print the measurements, one a line, each beside its reference in the same run."""
    with tempfile.TemporaryDirectory() as place:
        _log(Path(place) / "perf.log.jsonl")
    demo = job_from_text(asset("demo", "brindlemoor.lens.json").read_text("utf-8"))
    for words, job, most_s in (("36 cameras", demo, 3), ("1,000 cameras", job_of(1000), 30)):
        _pack(words, job, most_s)
    return 0


def _timed(act: Callable[[], object]) -> float:
    begun = time.perf_counter()
    act()
    return time.perf_counter() - begun


def _log(path: Path) -> None:
    now = datetime.now().astimezone()
    for start in range(0, ENTRIES, 1000):
        events = [
            Event("edit", f"Set the frame rate of camera {at}", (f"cam-{at}",)) for at in range(start, start + 1000)
        ]
        append(path, [(event, now) for event in events], "W. Ash", "perf")
    lines = path.read_bytes().splitlines()

    def plain() -> None:
        for line in lines:
            json.loads(line)
            hashlib.sha256(line).digest()

    reference_s, verify_s = _timed(plain), _timed(lambda: verify(path))
    one = [(Event("edit", "Set the frame rate", ("cam-1",)), now)]
    append_s = _timed(lambda: [append(path, one, "W. Ash", "perf") for _ in range(200)]) / 200
    print(
        f"log of {ENTRIES:,} entries verified: {verify_s:.2f} s, {verify_s / reference_s:.2f} x parsing and hashing its lines "
        f"({reference_s:.2f} s); wanted <= 2 s. One entry appended: {1000 * append_s:.2f} ms; wanted <= 5 ms"
    )


def _pack(words: str, job: Job, most_s: float) -> None:
    assessment = assess(job)
    reference_s = _timed(lambda: job_text(job))
    files: dict[str, bytes] = {}
    pack_s = _timed(lambda: files.update(pack_files(assessment, PackPlan("as built", date(2026, 11, 20)))))
    pdf = max((data for name, data in files.items() if name.endswith("as built.pdf")), key=len)
    sheet_s = _timed(lambda: field_sheet(assessment, "2026-11-20T08:00"))
    sheet_kb = len(field_sheet(assessment, "2026-11-20T08:00").text.encode()) / 1000
    print(
        f"pack of {words}: {pack_s:.1f} s, {pack_s / reference_s:.0f} x writing the job's text; wanted <= {most_s} s. PDF "
        f"{len(pdf) / 1e6:.2f} MB; wanted <= 5 MB. Field sheet {sheet_kb:.0f} kB in {sheet_s:.2f} s"
    )
