"""The diagram as drawn from the job: what is boxed with what, what stands in it, how it folds; and the table of ports."""

import unittest

from tools.perf.benchmarks import job_of

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.finding import Severity
from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.model import EMPTY_JOB, Link
from eager_lens.core.job.wiring import unplug
from eager_lens.core.present.diagram import LOOSE, diagram
from eager_lens.core.present.ports import port_rows
from tests.support import camera, demo_job, job_with, switch


class OfTheDemo(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.assessment = assess(demo_job())
        cls.drawn = diagram(cls.assessment)

    def test_every_device_is_in_exactly_one_box(self):
        known = {device.id for device in self.assessment.job.devices()}
        self.assertEqual(set(self.drawn.box_of), known)
        boxed = [one for box in self.drawn.boxes.values() if box.kind != "internet" for one in box.devices]
        self.assertEqual(len(boxed), len(known))

    def test_layers_follow_the_way_from_the_internet(self):
        column = {box.title: box.spot.column for box in self.drawn.boxes.values()}
        way = ("Router", "Hall switch", "Bridge, hall end", "Bridge, Quarry Halt", "Quarry Halt")
        self.assertEqual([column[name] for name in way], [0, 1, 2, 3, 4])
        self.assertEqual((column["Internet"], column["Halt switch"]), (0, 3))

    def test_lines_carry_the_loads_of_their_links(self):
        loads = self.assessment.facts.topology.loads
        for line in self.drawn.lines:
            if line.links:
                self.assertAlmostEqual(line.load_mbps, sum(loads.worst_mbps(link) for link in line.links))
        radio = next(line for line in self.drawn.lines if line.medium == "radio")
        self.assertAlmostEqual(radio.share, radio.load_mbps / 44.55)

    def test_bars_and_figures_are_those_of_the_assessment(self):
        boxes = {box.title: box for box in self.drawn.boxes.values()}
        self.assertEqual(boxes["Yard switch"].figure_words, "158 W")
        self.assertAlmostEqual(boxes["Yard switch"].bar_share, 158.21 / 250, places=4)
        incoming = self.assessment.recorder("rec-1").incoming_mbps
        self.assertAlmostEqual(boxes["Car hall recorder"].bar_share, incoming / 256)

    def test_faults_are_marked_at_the_spot(self):
        marks = {box.title: box.severity for box in self.drawn.boxes.values()}
        self.assertEqual(marks["Depot yard"], Severity.FAULT)
        self.assertEqual(marks["Halt switch"], Severity.WARNING)
        self.assertIsNone(marks["Tea room"])

    def test_a_pile_opens_into_its_cameras_and_folds_again(self):
        pile = next(box for box in self.drawn.boxes.values() if box.title == "Depot yard")
        opened = diagram(self.assessment, frozenset({pile.fold}))
        names = [box.title for box in opened.boxes.values() if box.kind == "camera"]
        self.assertIn("Wash track", names)
        self.assertEqual(len(names), 9)
        first = next(box for box in opened.boxes.values() if box.opens is False)
        self.assertEqual(first.fold, pile.fold)


class Shapes(unittest.TestCase):
    def test_an_empty_job_draws_nothing(self):
        drawn = diagram(assess(EMPTY_JOB))
        self.assertEqual((drawn.boxes, drawn.lines, drawn.width), ({}, (), 0))

    def test_what_is_not_plugged_in_waits_in_a_box(self):
        drawn = diagram(assess(job_with([camera(1), camera(2)], network=(switch(),))))
        self.assertEqual(drawn.boxes[LOOSE].devices, ("cam-1", "cam-2"))

    def test_a_ring_is_drawn_and_its_closing_line_is_a_fault(self):
        links = tuple(
            Link(id=f"l{n}", a=a, b=b)
            for n, (a, b) in enumerate((("net-1", "net-2"), ("net-2", "net-3"), ("net-3", "net-1")))
        )
        drawn = diagram(assess(job_with(network=(switch(1), switch(2), switch(3)), links=links)))
        self.assertEqual([line.in_tree for line in drawn.lines].count(False), 1)
        self.assertEqual([line.severity for line in drawn.lines].count(Severity.FAULT), 1)

    def test_links_that_lead_nowhere_break_nothing(self):
        links = (Link(id="l1", a="net-1", b="gone"), Link(id="l2", a="net-1", b="net-1"))
        self.assertEqual(diagram(assess(job_with(network=(switch(1),), links=links))).lines, ())

    def test_five_hundred_cameras_are_readable_by_folding(self):
        job = job_of(500)
        job = set_fields([f"net-{n}" for n in range(1, 14)], "place", place="North").apply(job)
        assessment = assess(job)
        drawn = diagram(assessment)
        self.assertLess(len(drawn.boxes), 12)
        north = next(box for box in drawn.boxes.values() if box.title == "North")
        self.assertEqual((north.words, north.figure_words), ("13 switches", "260 cameras"))
        opened = diagram(assessment, frozenset({north.fold}))
        self.assertEqual(sum(box.kind == "switch" for box in opened.boxes.values()), 14)
        self.assertEqual(set(opened.box_of), {device.id for device in job.devices()})


class Ports(unittest.TestCase):
    def test_sockets_stand_in_order_with_what_is_in_them(self):
        facts = assess(demo_job()).facts
        rows = port_rows(facts, "net-3")
        self.assertEqual([row.port for row in rows], list(range(1, 19)))
        wash = rows[3]
        self.assertEqual(
            (wash.what, wash.cable, round(wash.draw_w, 1), wash.allocated_w),
            ("Wash track", "24 AWG, CCA, 96 m", 28.8, 30),
        )
        self.assertAlmostEqual(wash.device_v, 41.7, places=1)
        self.assertEqual(wash.severity, Severity.FAULT)
        self.assertEqual([row.what for row in rows[12:]], ["free"] * 4 + ["Hall switch", "free"])

    def test_a_router_shows_its_internet_line(self):
        rows = port_rows(assess(demo_job()).facts, "net-1")
        self.assertEqual([(row.port, row.what) for row in rows][-1], (5, "internet line"))

    def test_a_camera_has_no_sockets_and_a_free_socket_no_figures(self):
        job = demo_job()
        self.assertEqual(port_rows(assess(job).facts, "cam-1"), [])
        freed = unplug(["link-15"]).apply(job)
        row = port_rows(assess(freed).facts, "net-3")[0]
        self.assertEqual((row.what, row.load_mbps, row.link_id), ("free", None, ""))


if __name__ == "__main__":
    unittest.main()
