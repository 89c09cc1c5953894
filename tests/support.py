"""Small jobs to test with, and a base class with a temporary folder."""

import os
import sys
import tempfile
import unittest
from functools import cache
from pathlib import Path

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.file import job_from_text
from eager_lens.core.job.model import (
    Camera,
    Job,
    NetworkDevice,
    Recorder,
    Registration,
    Retention,
    Schedule,
    SubnetPlan,
)
from eager_lens.core.recording.week import DAYS, Span, WeekPlan

IS_WHOLE = "EAGER_LENS_WHOLE_TESTS" in os.environ or "--serve" not in sys.argv
"""Whether everything is gone through: ``./eager-lens test --all``, a module that was named, or unittest by itself."""


def repeats(some, whole):
    """How often the same is tried with other chance: so many times, or in a whole run so many."""
    return whole if IS_WHOLE else some


def one_in(every, parts):
    """The first of each so many parts; in a whole run all of them."""
    parts = list(parts)
    return parts if IS_WHOLE else parts[::every]


def takes_long(test):
    """Leave a test out, except in a whole run: it takes seconds, and others beside it see the same broken in most cases."""
    test.takes_long = True
    return test


DEMO_PATH = Path(__file__).parent.parent / "src/eager_lens/assets/demo/brindlemoor.lens.json"


@cache
def demo_job():
    """The demo job; jobs never change in place, so one does for all tests of a process."""
    return job_from_text(DEMO_PATH.read_text("utf-8"))


def week_of(mode="continuous", start_h=0, end_h=24, id="week-1", name="Round the clock"):
    spans = (Span(round(start_h * 60), round(end_h * 60), mode),)
    return Schedule(id=id, name=name, plan=WeekPlan(**dict.fromkeys(DAYS, spans)))


def lan(id="lan-1", cidr="172.22.40.0/24", gateway="172.22.40.1", first="172.22.40.100", last="172.22.40.199", **more):
    base = {"id": id, "name": "LAN", "cidr": cidr, "gateway": gateway, "pool_first": first, "pool_last": last}
    return SubnetPlan(**{**base, **more})


def camera(number, **fields):
    base = {
        "id": f"cam-{number}",
        "name": f"Camera {number}",
        "place": "Hall",
        "subnet": "lan-1",
        "address": f"172.22.40.{39 + number}",
        "schedule": "week-1",
        "events_from": "counted",  # so that no false alarms are assumed, and shares follow the closed formula
        "registered": (Registration(recorder="rec-1", channel=number),),
    }
    if fields.get("measured_mbps"):
        # Of a constant rate, so that day and night are alike and figures can be told by hand.
        base |= {"measured_when": "day and night", "rate_control": "CBR", "cap_mbps": fields["measured_mbps"]}
    return Camera(**{**base, **fields})


def recorder(number=1, **fields):
    base = {
        "id": f"rec-{number}",
        "name": f"Recorder {number}",
        "place": "Hall",
        "subnet": "lan-1",
        "address": f"172.22.40.{19 + number}",
        "drives": 1,
        "drive_tb": 10,
    }
    return Recorder(**{**base, **fields})


def job_with(cameras=(), recorders=None, **fields):
    """A job in which nothing is wrong, unless the cameras or fields that are given make it so."""
    base = {
        "name": "Test job",
        "customer": "Trust",
        "site": "Depot",
        "prepared_by": "WA",
        "contact": "214",
        "retention": Retention(least_days=1),
        "subnets": (lan(),),
        "schedules": (week_of(),),
        "recorders": (recorder(),) if recorders is None else tuple(recorders),
        "cameras": tuple(cameras),
    }
    return Job(**{**base, **fields})


def switch(number=1, **fields):
    return NetworkDevice(**{"id": f"net-{number}", "name": f"Switch {number}", "place": "Hall", **fields})


def codes(job):
    """The codes of all findings of a job."""
    return [finding.code for finding in assess(job).findings]


def finding_of(job, code):
    """The first finding of a code; a clear failure when there is none."""
    found = [finding for finding in assess(job).findings if finding.code == code]
    assert found, f"no finding {code}; there are {codes(job)}"
    return found[0]


class FolderCase(unittest.TestCase):
    """A test with a folder of its own."""

    def setUp(self):
        super().setUp()
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name)
