"""A small site to try things on: a router, a PoE switch, a recorder and some cameras of two makes."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.job.model import Link, NetworkDevice, Registration
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.simulation.actions import do
from eager_lens.core.simulation.build import site_of
from tests.support import camera, job_with, lan, recorder, switch

PLAIN = MakeProfile(make="Quillmark", first_address="172.29.0.8", start_s=60, drift_ppm=0)
RECORDER = MakeProfile(make="Quillmark R", first_address="", start_s=100, drift_ppm=0)

ROUTER_AT = "172.22.40.1"


def router(**fields):
    base = {"id": "net-9", "name": "Router", "role": "router", "ports": 5, "poe_ports": 0, "wan_port": 5}
    return NetworkDevice(**{**base, "subnet": "lan-1", "address": ROUTER_AT, **fields})


def bench_job(
    cameras=3, make_profiles=(PLAIN, RECORDER), make="Quillmark B", extra_links=(), camera_fields=None, **fields
):
    """A job whose cameras hang on ports 1, 2, 3 ... of a PoE switch, the recorder on 9 and the router on 10."""
    per_camera = camera_fields or {}
    usual = {"make": make, "poe_class": 3, "power_w": 9}
    made = [
        camera(n, **{**usual, "mac_address": f"02:00:00:00:01:{n:02x}", **per_camera.get(n, {})})
        for n in range(1, cameras + 1)
    ]
    links = [Link(id=f"link-{n}", a=f"cam-{n}", b="net-1", b_port=n) for n in range(1, cameras + 1)]
    links.append(Link(id="link-rec", a="rec-1", a_port=1, b="net-1", b_port=9))
    links.append(Link(id="link-up", a="net-9", a_port=1, b="net-1", b_port=10))
    base = {
        "recorders": [recorder(make="Quillmark R")],
        "network": (switch(subnet="lan-1", address="172.22.40.4"), router()),
        "links": (*links, *extra_links),
        "make_profiles": tuple(make_profiles),
        "subnets": (lan(new_leases_per_month=0, leases_in_use=0),),
        "time_zone": "Europe/London",
    }
    return job_with(made, **{**base, **fields})


class BenchCase(unittest.TestCase):
    """A site, and short ways to do things on it."""

    def site_with(self, job=None, rehearsal=None, **fields):
        self.job = job or bench_job(**fields)
        self.site = site_of(assess(self.job), rehearsal or Rehearsal())
        return self.site

    def do(self, action, device="", /, **values):
        return do(self.site, action, device, values)

    def wait(self, seconds):
        self.site.run_to(self.site.now_s + seconds)

    def unit(self, unit_id):
        return self.site.units[unit_id]

    def log_lines(self):
        return [line.words for line in self.site.log_lines]

    def has_noted(self, words):
        """Whether a line of the event log holds these words."""
        return any(words in line for line in self.log_lines())

    def powered(self, **fields):
        """A site with everything but the cameras running, the recorder set up, the laptop in both subnets."""
        self.site_with(**fields)
        for unit_id in ("rec-1", "net-1", "net-9"):
            self.do("power on", unit_id)
        self.wait(160)
        self.do("set up", "rec-1", new="own")
        self.do("laptop address", address="172.22.40.250/24")
        self.do("laptop address", address="172.29.0.2/24")
        return self.site

    def ready(self, number, address=None, **set_up):
        """A camera plugged in, set up, and at its planned address."""
        unit_id = f"cam-{number}"
        self.do("plug", unit_id)
        self.wait(self.unit(unit_id).profile.start_s + 5)
        self.do("set up", unit_id, **{"new": "own", **set_up})
        planned = address or f"172.22.40.{39 + number}"
        password = set_up.get("new", "own")
        return self.do("address", unit_id, address=f"{planned}/24", gateway=ROUTER_AT, password=password)

    def registered(self, number, **values):
        """A camera added at the recorder by hand, with a look at what comes of it."""
        base = {
            "address": f"172.22.40.{39 + number}",
            "channel": str(number),
            "protocol": "own",
            "camera": f"cam-{number}",
        }
        self.do("add", "rec-1", **{**base, "password": "own", **values})
        self.do("refresh", "rec-1")
        return self.unit("rec-1").entries[int(values.get("channel", number))]


def at_recorder(channel, recorder_id="rec-1"):
    return (Registration(recorder=recorder_id, channel=channel),)
