"""The chain from motion to a clip: every link, and the first that is broken."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.chain import broken_link, chain_of
from eager_lens.core.job.model import Link, SubnetPlan
from tests.support import camera, demo_job, finding_of, job_with, lan, recorder, switch, week_of


def chain(camera_fields=(), job_fields=(), **recorder_fields):
    one = camera(1, **dict(camera_fields))
    base = {"recorders": [recorder(**recorder_fields)], "schedules": (week_of("motion"),)}
    job = job_with([one], **{**base, **dict(job_fields)})
    return chain_of(assess(job).facts, job.cameras[0], job.recorders[0])


class Links(unittest.TestCase):
    def test_as_a_job_begins_every_link_holds(self):
        self.assertIsNone(broken_link(chain()))
        self.assertEqual(chain()[1].words, "to 172.22.40.20")

    def test_each_link_breaks_by_itself_and_says_how(self):
        cases = (
            ({"motion_rule_on": False}, {}, "the camera's rule", "off on the camera"),
            (
                {"event_target": "172.22.40.9"},
                {},
                "sent to the recorder",
                "not an address of the recorder; it listens at 172.22.40.20",
            ),
            (
                {"event_tcp_port": 7443},
                {"event_tcp_port": 8080},
                "the same port",
                "to 7443, the recorder listens at 8080",
            ),
            ({}, {"takes_events": False}, "the recorder accepts", "off on Recorder 1"),
            (
                {"pre_recording_s": 0, "post_recording_s": 0, "event_s": 0},
                {},
                "pre- or post-recording",
                "0 s before, 0 s after",
            ),
            ({}, {"address": ""}, "sent to the recorder", "has no address yet"),
        )
        for camera_fields, recorder_fields, name, words in cases:
            with self.subTest(name=name, words=words):
                broken = broken_link(chain(camera_fields, **recorder_fields))
                self.assertEqual(broken.name, name)
                self.assertIn(words, broken.words)

    def test_a_week_without_movement_hours(self):
        broken = broken_link(chain(job_fields={"schedules": (week_of("continuous"),)}))
        self.assertEqual((broken.name, broken.words), ("the schedule allows it", "the schedule has no motion hours"))

    def test_no_way_to_the_recorder(self):
        links = (Link(id="a", a="cam-1", b="net-1", b_port=1), Link(id="b", a="rec-1", b="net-2", b_port=1))
        broken = broken_link(chain(job_fields={"network": (switch(1), switch(2)), "links": links}))
        self.assertEqual(broken.name, "a path to the recorder")

    def test_on_the_cameras_side_another_address_is_right(self):
        sides = {
            "attachment": "recorder PoE ports",
            "camera_interface_subnet": "lan-2",
            "camera_interface_address": "10.44.8.1",
        }
        subnets = (lan(), SubnetPlan(id="lan-2", name="Cameras", cidr="10.44.8.0/24"))
        there = {"subnet": "lan-2", "address": "10.44.8.40"}
        self.assertIsNone(broken_link(chain(there, {"subnets": subnets}, **sides)))
        broken = broken_link(chain({**there, "event_target": "172.22.40.20"}, {"subnets": subnets}, **sides))
        self.assertIn("its other interface; it listens at 10.44.8.1", broken.words)


class InTheDemo(unittest.TestCase):
    def test_the_broken_one_is_named_with_its_link_and_mended(self):
        job = demo_job()
        finding = finding_of(job, "chain-broken")
        self.assertIn("the camera sends to 7443", finding.why)
        self.assertNotIn("chain-broken", [one.code for one in assess(finding.fix.apply(job)).findings])

    def test_many_with_one_break_are_one_finding(self):
        cameras = [camera(n, motion_rule_on=False) for n in range(1, 9)]
        job = job_with(cameras, schedules=(week_of("motion"),))
        found = [one for one in assess(job).findings if one.code == "chain-broken"]
        self.assertEqual([len(one.subjects) for one in found], [8])


if __name__ == "__main__":
    unittest.main()
