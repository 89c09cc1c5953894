"""The check, on a site with a fault at each camera: every fault is told, and only that."""

import json
from functools import cache

from eager_lens.core.site_check.readings import CheckRun
from eager_lens.core.validation import read_as
from tests.onsite.base import InNamespaces, OnSite, small_job

FAULTS = {
    2: ("twin", "two-on-one-address"),
    3: ("out-of-box", "not-heard"),
    4: ("wrong-subnet", "at-another-address"),
    5: ("wrong-password", "password-refused"),
    6: ("protocol-off", "open-protocol-off"),
    7: ("frozen-lease", "two-on-one-address"),
    8: ("other-settings", "settings-differ"),
    9: ("clock-hour", "clock-off"),
    10: ("unplugged", "not-heard"),
}
RIGHT = (11, 12)


class Faults(InNamespaces):
    words = tuple(word for at, (fault, _) in FAULTS.items() for word in ("--fault", f"{fault}=Camera {at}"))

    @classmethod
    def job(cls):
        return small_job(12)

    @classmethod
    @cache
    def found(cls):
        return cls.site.check("--seconds", "3")

    def codes_of(self, name):
        return {line["code"] for row in self.found()["rows"] if row["name"] == name for line in row["lines"]}

    def test_each_fault_is_told(self):
        for at, (fault, code) in FAULTS.items():
            with self.subTest(fault):
                self.assertIn(code, self.codes_of(f"Camera {at}"))

    def test_what_is_right_is_left_alone(self):
        for at in RIGHT:
            with self.subTest(at):
                self.assertEqual(self.codes_of(f"Camera {at}"), set())
        self.assertEqual(self.codes_of("Router"), set())

    def test_only_what_the_fault_is_about_is_told(self):
        for at in (5, 6, 8, 9):
            with self.subTest(FAULTS[at][0]):
                more = {"no-stream"} if FAULTS[at][0] == "protocol-off" else set()
                self.assertEqual(self.codes_of(f"Camera {at}"), {FAULTS[at][1], *more})

    def test_the_recorder_tells_which_channels_have_no_picture(self):
        words = next(row for row in self.found()["rows"] if row["name"] == "Recorder 1")["lines"]
        channels = next(line["words"] for line in words if line["code"] == "channel-not-receiving")
        self.assertIn("Camera 5 (its job is in error)", channels)

    def test_a_wrong_password_is_tried_once(self):
        read = next(one for one in self.found()["run"]["read"] if one["device"] == "cam-5")
        self.assertEqual(read["login"], "refused")
        self.assertEqual((read["main"], read["substream"], read["told"]["identity"]), (None, None, None))

    def test_a_device_in_another_subnet_is_overheard_where_that_is_allowed(self):
        run = self.found()["run"]
        self.assertTrue(run["arp_heard"])
        self.assertIn("172.22.41.43", {one["address"] for one in run["heard"]})

    def test_figures_are_those_that_are_sent(self):
        reads = {one["device"]: one for one in self.found()["run"]["read"]}
        for at in RIGHT:
            main = reads[f"cam-{at}"]["main"]
            self.assertAlmostEqual(main["mean_mbps"], 0.4, delta=0.03 * 0.4)
            self.assertAlmostEqual(main["fps"], 10, delta=0.1)
            self.assertAlmostEqual(main["key_frame_s"], 1.0, delta=0.1)
            self.assertEqual((main["codec"], main["width_px"], main["height_px"]), ("h264", 320, 176))
        self.assertEqual(reads["cam-9"]["clock_by"], "RTCP")
        self.assertAlmostEqual(reads["cam-9"]["clock_off_s"], 3600, delta=5.0)  # perf measures how near it comes

    def test_the_run_reads_back(self):
        run = read_as(CheckRun, json.loads(json.dumps(self.found()["run"])))
        self.assertTrue(run.here)
        self.assertEqual(self.found()["status"], 1)


class OnLoopback(OnSite):
    """Where no network namespace is allowed: the same stand-ins on loopback addresses."""

    words = ("--loopback",)

    @classmethod
    def job(cls):
        return small_job(3, [{}, {"address": "172.22.40.40"}, {}])

    def test_it_checks_what_loopback_can_show(self):
        self.assertEqual(self.site.note["mode"], "loopback")
        self.assertIn("cam-2", self.site.note["left_out"])
        self.assertIn("shares its address", self.site.note["left_out"]["cam-2"])
        found = self.site.check("--seconds", "2")
        rows = {row["name"]: row for row in found["rows"]}
        self.assertEqual(rows["Camera 3"]["lines"], [])
        self.assertIn("H.264 320 × 176, 10 fps", rows["Camera 3"]["found"])
        self.assertFalse(found["run"]["arp_heard"])
