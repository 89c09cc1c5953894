"""What fails with a part: against plain removal of every part of random sites, and by hand."""

import random
import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.model import Link, NetworkDevice, PowerUnit, Registration
from eager_lens.core.job.wiring import unplug
from tests.support import camera, job_with, recorder, switch


def reached(job, recorder_id, without=()):
    """Devices with a way to a recorder: by plain search, other recorders passing nothing on unless they are made to."""
    closed = {r.id for r in job.recorders if r.attachment != "bridged PoE ports" and r.id != recorder_id}
    known = {device.id for device in job.devices()} - set(without)
    found, waiting = {recorder_id} & known, [recorder_id] if recorder_id in known else []
    while waiting:
        here = waiting.pop()
        for link in job.links:
            if link.id not in without and here in (link.a, link.b) and here not in closed:
                other = link.b if here == link.a else link.a
                if other in known and other not in found:
                    found.add(other)
                    waiting.append(other)
    return found


def random_site(source):
    """Two recorders, five switches, a router with a line, eight cameras, links at random, some in rings."""
    boxes = [switch(n, ports=50, poe_ports=40) for n in range(1, 6)]
    boxes.append(NetworkDevice(id="net-9", name="Router", role="router", ports=9, upload_mbps=20))
    recorders = [recorder(n, ports=9, attachment=source.choice(("LAN", "bridged PoE ports"))) for n in (1, 2)]
    cameras = [
        camera(
            n,
            registered=tuple(
                Registration(recorder=f"rec-{r}", channel=n) for r in source.sample((1, 2), source.choice((1, 1, 2)))
            ),
        )
        for n in range(1, 9)
    ]
    middle = [box.id for box in (*boxes, *recorders)]
    pairs = [(one.id, source.choice(middle)) for one in cameras]
    pairs += [(middle[n], middle[source.randrange(n)]) for n in range(1, len(middle)) if source.random() < 0.9]
    pairs += [tuple(source.sample(middle, 2)) for _ in range(source.randrange(3))]
    links = tuple(Link(id=f"link-{n}", a=a, b=b) for n, (a, b) in enumerate(pairs, 1))
    return job_with(cameras, recorders=recorders, network=tuple(boxes), links=links)


class ByRemoval(unittest.TestCase):
    def expected(self, job, part):
        stopped, hidden, seen = set(), set(), set()
        for one in job.recorders:
            before, after = reached(job, one.id), reached(job, one.id, {part})
            on = {c.id for c in job.cameras if any(place.recorder == one.id for place in c.registered)}
            stopped |= {c for c in on if c in before and c not in after} - {part}
            if "net-9" in before:
                seen.add(one.id)
                if one.id != part and "net-9" not in after:
                    hidden.add(one.id)
        unseen = set()
        for one in job.cameras:
            had = {place.recorder for place in one.registered} & seen
            if had and had <= hidden:
                unseen.add(one.id)
        return stopped, unseen - stopped

    def test_every_part_of_random_sites(self):
        for seed in range(60):
            job = random_site(random.Random(seed))
            found = {failure.part: failure for failure in assess(job).facts.failures}
            for part in [link.id for link in job.links] + [device.id for device in job.devices()]:
                stopped, unseen = self.expected(job, part)
                got = found.get(part)
                with self.subTest(seed=seed, part=part):
                    self.assertEqual(set(got.stopped) - {part} if got else set(), stopped)
                    if not part.startswith("cam-"):
                        self.assertEqual(set(got.unseen) if got else set(), unseen)

    def test_loads_of_random_sites_arrive_where_a_way_is(self):
        """Every camera with a way loads its own link with its rate once a recorder; the others load nothing."""
        for seed in range(30):
            job = random_site(random.Random(seed))
            assessment = assess(job)
            for one in job.cameras:
                link = assessment.facts.topology.wiring.feeders[one.id]
                ways = sum(one.id in reached(job, place.recorder) for place in one.registered)
                expected = ways * assessment.camera(one.id).load_mbps
                with self.subTest(seed=seed, camera=one.id):
                    self.assertAlmostEqual(assessment.facts.topology.loads[link.id].worst_mbps, expected)


class ByHand(unittest.TestCase):
    def setUp(self):
        router = NetworkDevice(id="net-9", name="Router", role="router", ports=5, upload_mbps=20)
        links = (
            Link(id="c1", a="cam-1", b="net-1"),
            Link(id="c2", a="cam-2", b="net-1"),
            Link(id="r", a="rec-1", b="net-1"),
            Link(id="o", a="net-9", b="net-1"),
        )
        supply = PowerUnit(id="pow-1", name="Supply", feeds=("cam-1", "cam-2"))
        self.job = job_with([camera(1), camera(2)], network=(switch(1), router), links=links, power_units=(supply,))

    def failure(self, part, job=None):
        found = [failure for failure in assess(job or self.job).facts.failures if failure.part == part]
        return (set(found[0].stopped), set(found[0].unseen)) if found else (set(), set())

    def test_a_dead_router_only_loses_remote_viewing(self):
        self.assertEqual(self.failure("net-9"), (set(), {"cam-1", "cam-2"}))
        self.assertEqual(self.failure("o"), (set(), {"cam-1", "cam-2"}))

    def test_a_dead_switch_stops_recording_and_counts_nothing_twice(self):
        self.assertEqual(self.failure("net-1"), ({"cam-1", "cam-2"}, set()))

    def test_a_supply_takes_all_that_it_feeds(self):
        self.assertEqual(self.failure("pow-1"), ({"cam-1", "cam-2"}, set()))

    def test_without_a_line_nobody_loses_remote_viewing(self):
        job = set_fields(["net-9"], "line", upload_mbps=None).apply(self.job)
        self.assertEqual(self.failure("net-9", job), (set(), set()))

    def test_worst_first(self):
        counts = [len(failure.stopped) for failure in assess(self.job).facts.failures]
        self.assertEqual(counts, sorted(counts, reverse=True))

    def test_a_camera_on_recorder_ports_is_out_of_reach_until_they_are_passed_through(self):
        """Handbook: on a recorder's own ports a second recorder cannot record the same camera."""
        job = unplug(["c1"]).apply(self.job)
        both = tuple(Registration(recorder=f"rec-{n}", channel=1) for n in (1, 2))
        job = job.model_copy(
            update={
                "links": (*job.links, Link(id="own", a="cam-1", b="rec-1"), Link(id="r2", a="rec-2", b="net-1")),
                "recorders": (job.recorders[0], recorder(2)),
                "cameras": (job.cameras[0].model_copy(update={"registered": both}), job.cameras[1]),
            }
        )
        self.assertEqual(assess(job).facts.topology.cut_off, ("cam-1",))
        through = set_fields(["rec-1"], "pass", attachment="bridged PoE ports").apply(job)
        self.assertEqual(assess(through).facts.topology.cut_off, ())


if __name__ == "__main__":
    unittest.main()
