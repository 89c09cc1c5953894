"""What was found on the network beside what was planned."""

import unittest

from eager_lens.core.errors import RefusedInput
from eager_lens.core.incoming.table_in import table_from_text
from eager_lens.core.scan.found import ScanAnswer, compared, take_over
from eager_lens.core.scan.scan_list import scan_list
from tests.support import camera, job_with


def seen(address="", hardware="", serial="", firmware="", name=""):
    return ScanAnswer(address, hardware, serial, firmware, name)


MAC = "02:00:00:00:00:0{}".format
JOB = job_with(
    [
        camera(1, mac_address=MAC(1), serial="QU-1"),
        camera(2, mac_address=MAC(2)),
        camera(3),
        camera(4, mac_address=MAC(4)),
    ]
)


class Compared(unittest.TestCase):
    def outcomes(self, *answers, job=JOB):
        found = compared(job, answers)
        return {(one.device.id if one.device else one.seen.address): one for one in found}

    def test_each_outcome(self):
        got = self.outcomes(
            seen("172.22.40.40", MAC(1)),
            seen("172.22.40.99", MAC(2)),
            seen("172.22.40.42", MAC(9)),
            seen("172.22.40.200", MAC(8), name="printer"),
        )
        self.assertEqual(
            {key: one.outcome for key, one in got.items()},
            {
                "cam-1": "as planned",
                "cam-2": "elsewhere",
                "cam-3": "by address alone",
                "172.22.40.200": "stranger",
                "cam-4": "not heard",
                "rec-1": "not heard",
            },
        )
        self.assertIn("172.22.40.41", got["cam-2"].words)

    def test_what_needs_somebody_comes_first(self):
        found = compared(JOB, [seen("172.22.40.40", MAC(1)), seen("172.22.40.43", MAC(9))])
        self.assertEqual((found[0].outcome, found[-1].outcome), ("another device", "as planned"))

    def test_a_shared_default_address_names_the_way_out(self):
        got = compared(JOB, [seen("192.168.1.64", MAC(1)), seen("192.168.1.64", MAC(2))])
        self.assertEqual([one.outcome for one in got[:2]], ["shared", "shared"])
        self.assertIn("Unplug all but one", got[0].words)

    def test_another_subnet_is_alive_but_unreachable(self):
        got = self.outcomes(seen("192.168.1.64", MAC(1)))["cam-1"]
        self.assertIn("answers outside 172.22.40.0/24", got.words)
        self.assertIn("172.22.40.40", got.words)

    def test_by_serial_when_the_mac_address_is_not_told(self):
        self.assertEqual(self.outcomes(seen("172.22.40.40", serial="qu-1"))["cam-1"].outcome, "as planned")

    def test_a_label_noted_twice_is_told_apart_by_the_address(self):
        job = job_with([camera(1, mac_address=MAC(1)), camera(2, mac_address=MAC(1))])
        got = self.outcomes(seen("172.22.40.41", MAC(1)), job=job)
        self.assertEqual((got["cam-2"].outcome, got["cam-1"].outcome), ("as planned", "not heard"))

    def test_the_list_of_another_site_is_refused(self):
        with self.assertRaises(RefusedInput) as caught:
            compared(JOB, [seen("10.0.0.1", MAC(7)), seen("10.0.0.2", MAC(8))])
        self.assertIn("another site", str(caught.exception))

    def test_nothing_heard_is_every_device_silent(self):
        self.assertEqual({one.outcome for one in compared(JOB, [])}, {"not heard"})


class TakenOver(unittest.TestCase):
    def test_what_was_heard_is_in_the_plan(self):
        found = compared(
            JOB,
            [
                seen("172.22.40.99", MAC(2), "QU-2", "2.1"),
                seen("172.22.40.42", MAC(3)),
                seen("172.22.40.43", MAC(9)),
                seen("10.9.9.9", MAC(7)),
            ],
        )
        after = {one.id: one for one in take_over(found).apply(JOB).cameras}
        self.assertEqual(
            (after["cam-2"].address, after["cam-2"].serial, after["cam-2"].firmware), ("172.22.40.99", "QU-2", "2.1")
        )
        self.assertEqual(after["cam-3"].mac_address, MAC(3))
        self.assertEqual(after["cam-4"], JOB.cameras[3])
        again = compared(take_over(found).apply(JOB), [one.seen for one in found if one.seen])
        self.assertIn("as planned", {one.outcome for one in again if one.device and one.device.id == "cam-2"})

    def test_nothing_new_is_said(self):
        with self.assertRaises(RefusedInput):
            take_over(compared(JOB, [seen("172.22.40.40", MAC(1))]))


class Lists(unittest.TestCase):
    def read(self, text):
        return scan_list(table_from_text(text))

    def test_with_headings(self):
        got = self.read(
            "Device Type;IPv4 Address;MAC Address;Serial No;Firmware version\n"
            "B4;172.22.40.40;02-00-00-00-00-01;QU-1;2.1\n;172.22.40.41;0200.0000.0002;;\n"
        ).answers
        self.assertEqual(got[0], seen("172.22.40.40", MAC(1), "QU-1", "2.1", "B4"))
        self.assertEqual(got[1].mac_address, MAC(2))

    def test_lines_of_any_tool(self):
        got = self.read(
            "Starting search\n"
            "? (172.22.40.40) at 02:00:00:00:00:01 [ether] on eth0\n"
            "172.22.40.41   02-00-00-00-00-02   camera B4\n"
            "172.022.040.042\n"
            "host 300.1.1.1 is no address\n"
        )
        self.assertEqual([one.address for one in got.answers], ["172.22.40.40", "172.22.40.41", "172.22.40.42"])
        self.assertEqual(got.answers[1].name, "camera B4")
        (problem,) = got.problems
        self.assertRegex(problem, r"^2 rows skipped \(first row 1\): no IPv4")

    def test_bad_cells_are_left_out_and_named(self):
        got = self.read("IP,MAC\n172.22.40.40,02:00:00:00:00:01\n172.22.40.999,\n172.22.40.41,zz:00\n")
        self.assertEqual(len(got.answers), 1)
        self.assertEqual(len(got.problems), 2)

    def test_garbage_is_refused(self):
        with self.assertRaises(RefusedInput) as caught:
            self.read("nothing here\nnor here\n")
        self.assertIn("no answer found in 2 rows", str(caught.exception))
