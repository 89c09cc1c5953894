"""The return visit: what changed since, what that costs in days, what drifts, what wears, what is due."""

import unittest
from datetime import date

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.edits import add_cameras, remove_devices, set_fields
from eager_lens.core.job.model import Link, Retention, SavedRule, ScheduleException, changed
from eager_lens.core.job.proof import Check
from eager_lens.core.job.proving import record_checks
from eager_lens.core.outgoing.handover.visit import months_later, next_service_on, visit, visit_sheet
from eager_lens.core.site_check.readings import CheckRun
from eager_lens.core.values.motion_rule import MotionRule
from tests.support import camera, job_with, lan, recorder, week_of

TODAY = date(2027, 11, 20)


def run(at, **read):
    seen = {"device": "cam-1", "address": "172.22.40.40", "login": "in", **read}
    heard = {"address": "172.22.40.40", "firmware": "1.4", "by": ["TCP"]}
    return CheckRun.model_validate({"at": at, "laptop": ["172.22.40.9/24"], "heard": [heard], "read": [seen]})


class Visits(unittest.TestCase):
    def setUp(self):
        cameras = [camera(n, fps=12, firmware="1.2") for n in range(1, 7)]
        self.before = assess(job_with(cameras, recorders=[recorder(drives=2, drive_tb=4)]))

    def found(self, job, **more):
        return visit(self.before, assess(job), TODAY, **more)

    def test_devices_with_one_change_stand_together_with_what_it_costs(self):
        job = set_fields([f"cam-{n}" for n in range(1, 5)], "x", fps=25).apply(self.before.job)
        job = set_fields(["cam-6"], "x", place="Yard").apply(job)
        frames, place = self.found(job).changes
        self.assertEqual((frames.what, len(frames.ids)), ("Frame rate", 4))
        was, now = frames.days
        self.assertAlmostEqual(was, self.before.recorder("rec-1").promised_days)
        faster = assess(set_fields(frames.ids, "x", fps=25).apply(self.before.job))
        self.assertAlmostEqual(now, faster.recorder("rec-1").promised_days)
        self.assertLess(now, was)
        self.assertEqual((place.what, place.now, place.days), ("Place", "Yard", None))
        sheet = visit_sheet(self.found(job, since=lambda ids: date(2027, 3, 2)), "as built", assess(job))
        row = sheet.blocks[1].rows[0]
        self.assertEqual(row[0], "Frame rate: 12 fps to 25 fps")
        self.assertEqual(row[2], "2027-03-02")
        self.assertRegex(row[3], r"^retention [\d.]+ to [\d.]+ days$")

    def test_each_change_is_costed_alone(self):
        job = set_fields(["cam-1"], "x", fps=25).apply(self.before.job)
        job = set_fields(["cam-2"], "x", codec="mjpeg").apply(job)
        costs = {one.what: one.days[1] for one in self.found(job).changes if one.days}
        self.assertGreater(costs["Frame rate"], costs["Codec"])
        self.assertEqual(self.found(job).changes[0].what, "Codec", "what costs most stands first")

    def test_what_came_and_went(self):
        job = remove_devices(["cam-3"], "x").apply(self.before.job)
        job = add_cameras([{"name": "New one"}]).apply(job)
        found = self.found(job)
        self.assertEqual(found.removed, ("Camera 3",))
        self.assertEqual(found.added, ("New one",))

    def test_nothing_changed(self):
        found = self.found(self.before.job)
        self.assertEqual(found.changes, ())
        self.assertIn("The plan has not changed", visit_sheet(found, "as built", self.before).intro)

    def only(self, job):
        """The one change of a job, and its row on the sheet."""
        found = self.found(job)
        self.assertEqual(len(found.changes), 1, found.changes)
        sheet = visit_sheet(found, "as built", assess(job))
        self.assertNotIn("The plan has not changed", sheet.intro)
        return found.changes[0], sheet.blocks[1].rows[0]

    def test_whatever_part_of_the_job_changed_is_told_with_what_it_costs(self):
        job = self.before.job
        motion = week_of("motion")
        link = Link(id="link-1", a="cam-1", b="net-1", a_port=1, b_port=1, length_m=20)
        for words, after, row in (
            ("a week painted", changed(job, schedules=(motion,)), ("Week: continuous 168 h to motion 168 h", "Round the clock")),
            ("days asked", changed(job, retention=Retention(least_days=500)), ("Minimum retention: 1 days to 500 days", "")),
            ("the pool", changed(job, subnets=(lan(last="172.22.40.210"),)), ("Pool last: 172.22.40.199 to 172.22.40.210", "LAN")),
            ("time zone", changed(job, time_zone="Europe/Paris"), ("Time zone: UTC to Europe/Paris", "")),
            ("a link", changed(job, links=(link,)), ("New", "Camera 1 – net-1")),
            ("cable", set_fields(["cam-1"], "x", cable_m=80.0).apply(job), ("Cable: none to 80 m", "Camera 1")),
            ("a saved rule", changed(job, rules=(SavedRule(id="rule-1", name="Gate", rule=MotionRule()),)), ("New", "Gate")),
            ("spare devices", changed(job, spare_cameras=(camera(9),)), ("New", "cam-9")),
        ):  # fmt: skip
            with self.subTest(words):
                change, (what, where, _, cost) = self.only(after)
                self.assertEqual(what, row[0])
                self.assertIn(row[1], where)
                self.assertTrue(change.worked_out)
                self.assertTrue(cost, "a cell is never empty")

    def test_what_was_asked_brings_its_finding(self):
        change, row = self.only(changed(self.before.job, retention=Retention(least_days=500)))
        self.assertRegex(change.findings[0], r"^(fault|warning): Recorder 1 can promise [\d.]+ of 500 days$")
        self.assertIn("of 500 days", row[3])

    def test_a_fault_of_a_kind_that_another_device_had_is_new(self):
        near = {"purpose": "identify", "target_m": 3}
        cameras = [camera(1, purpose="identify", target_m=60), camera(2, **near)]
        self.before = assess(job_with(cameras))
        self.assertEqual([one.subjects for one in self.before.findings if one.code == "purpose-missed"], [("cam-1",)])
        (change,) = self.found(set_fields(["cam-2"], "x", target_m=60).apply(self.before.job)).changes
        self.assertTrue(any("Camera 2" in words for words in change.findings), change.findings)

    def test_a_schedule_painted_continuous_costs_its_days(self):
        cameras = [camera(n, schedule="week-2") for n in range(1, 7)]
        quiet = week_of("motion", id="week-2", name="Depot")
        before = job_with(cameras, [recorder(drives=2, drive_tb=4)], schedules=(week_of(), quiet))
        after = changed(before, schedules=(week_of(), week_of(id="week-2", name="Depot")))
        found = visit(assess(before), assess(after), TODAY)
        (change,) = found.changes
        self.assertLess(change.days[1], change.days[0])
        self.assertEqual(change.days[1], assess(after).recorder("rec-1").promised_days)

    def test_a_larger_resolution_is_costed(self):
        job = set_fields([f"cam-{n}" for n in range(1, 7)], "x", width_px=3840, height_px=2160).apply(self.before.job)
        change, row = self.only(job)
        self.assertEqual(row[0], "Resolution: 1920×1080 px to 3840×2160 px")
        self.assertAlmostEqual(change.days[1], assess(job).recorder("rec-1").promised_days)

    def test_an_exception_is_told_and_costed(self):
        closed = ScheduleException(
            id="exception-1", name="Fair", first=date(2027, 7, 1), last=date(2027, 8, 31), schedule="week-2"
        )
        job = changed(self.before.job, schedules=(week_of(), week_of("off", id="week-2", name="Off")))
        self.before = assess(job)
        change, row = self.only(changed(job, exceptions=(closed,)))
        self.assertEqual((row[0], row[1]), ("New", "exceptions: Fair"))
        self.assertTrue(change.worked_out)

    def test_what_was_recorded_since_is_counted_apart(self):
        check = Check(device="rec-1", check="drives", outcome="passed", at="2027-11-19T10:00:00")
        found = self.found(record_checks([check]).apply(self.before.job))
        self.assertEqual((found.changes, found.recorded), ((), {"checks": (1, 0)}))
        items = visit_sheet(found, "x", self.before).blocks[-1].items
        self.assertIn("Recorded since: 1 acceptance test.", items)

    def test_changes_beyond_those_worked_out_say_so(self):
        job = self.before.job
        for n in range(1, 7):
            job = set_fields(
                [f"cam-{n}"], "x", fps=13 + n, place=f"P{n}", power_w=9 + n, focal_mm=5 + n, note=f"N{n}"
            ).apply(job)
        costs = [one.worked_out for one in self.found(job).changes]
        self.assertEqual((len(costs), costs.count(False)), (30, 6))

    def test_what_the_site_check_read_counts(self):
        main = {"outcome": "opened", "codec": "h264", "width_px": 1920, "height_px": 1080, "fps": 25, "read_s": 5}
        found = self.found(self.before.job, runs=(None, run("2027-11-19T12:00:00Z", main=main)))
        self.assertIn("Frame rate", [one.what for one in found.changes])

    def test_clocks_drift_between_two_runs(self):
        runs = (run("2027-11-09T12:00:00Z", clock_off_s=2.0), run("2027-11-19T12:00:00Z", clock_off_s=22.0))
        ((name, off, drift),) = self.found(self.before.job, runs=runs).clocks
        self.assertEqual((name, off), ("Camera 1", 22.0))
        self.assertAlmostEqual(drift, 2.0)
        text = "\n".join(visit_sheet(self.found(self.before.job, runs=runs), "x", self.before).blocks[-1].items)
        self.assertIn("22 s ahead, drifting 2 s a day", text)
        self.assertIn("Firmware of Camera 1: 1.4 installed, 1.2 noted", text)

    def test_strangers(self):
        seen = CheckRun.model_validate(
            {
                "at": "2027-11-19T12:00:00Z",
                "laptop": ["172.22.40.9/24"],
                "arp_heard": True,
                "heard": [{"address": "172.22.40.77", "mac_addresses": ["02:00:00:00:00:77"], "by": ["ARP"]}],
            }
        )
        found = self.found(self.before.job, runs=(None, seen))
        self.assertEqual(len(found.strangers), 1)

    def test_what_is_due_and_worn(self):
        checks = [
            Check(device="rec-1", check="drives", outcome="passed", at="2026-11-19T10:00:00"),
            Check(device="cam-1", check="clip", outcome="passed", at="2027-01-10T10:00:00"),
            Check(device="cam-1", check="label", outcome="passed", at="2022-01-10T10:00:00"),
        ]
        job = set_fields(["cam-1"], "x", card_gb=128, card_written_tb=5).apply(
            record_checks(checks).apply(self.before.job)
        )
        found = self.found(job)
        self.assertEqual(found.due, (("Recorder 1", "Drives healthy", "2026-11-19"),))
        self.assertEqual(found.next_service, date(2028, 1, 10))
        self.assertEqual(len(found.wear), 2, "five years of drives, and the card")

    def test_months(self):
        self.assertEqual(months_later(date(2027, 1, 31), 1), date(2027, 2, 28))
        self.assertEqual(months_later(date(2027, 12, 15), 12), date(2028, 12, 15))
        self.assertIsNone(next_service_on(self.before.job))

    def test_it_fits_one_page(self):
        import pypdfium2

        from eager_lens.core.outgoing.formats.pdf import handover_pdf
        from eager_lens.core.outgoing.handover.modes import Extras, sheets_of

        job = self.before.job
        for n in range(1, 7):
            job = set_fields(
                [f"cam-{n}"], "x", fps=13 + n, place=f"Place {n}", power_w=9 + n, mount_height_m=2 + n
            ).apply(job)
        now = assess(job)
        sheet = visit_sheet(self.found(job), "as built", now)
        pdf = handover_pdf(sheets_of("return visit", now, "20 November 2027", Extras(visit=sheet)))
        self.assertEqual(len(pypdfium2.PdfDocument(pdf)), 1)


if __name__ == "__main__":
    unittest.main()
