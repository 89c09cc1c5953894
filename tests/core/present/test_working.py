"""Workings, curves and verdicts say what the figures say."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.proof import progress, site_tests, tests_on
from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.model import EMPTY_JOB, Retention
from eager_lens.core.job.proof import Check
from eager_lens.core.job.proving import record_checks
from eager_lens.core.options.curves import SETTINGS, days_curve
from eager_lens.core.present.stages import STAGES, verdict_of
from eager_lens.core.present.working import FigureRef, working_of
from eager_lens.core.units import figure
from tests.support import camera, demo_job, job_with, recorder, week_of


class Workings(unittest.TestCase):
    def setUp(self):
        self.assessment = assess(demo_job())

    def working(self, kind, subject=""):
        return working_of(FigureRef(kind, subject), self.assessment)

    def test_every_figure_of_the_demo_has_one(self):
        subjects = {
            "days": "rec-1",
            "incoming": "rec-2",
            "rate": "cam-3",
            "gb-per-day": "cam-7",
            "volts": "cam-24",
            "power": "net-2",
            "load": "link-1",
            "radio": "link-42",
            "unit": "pow-4",
            "stops": "net-2",
            "channels": "",
            "addresses": "",
            "steps": "",
        }
        for kind, subject in subjects.items():
            with self.subTest(kind):
                working = self.working(kind, subject)
                self.assertTrue(working.title and working.value and working.formula and working.source)
                self.assertTrue(working.lines)
                self.assertIn(working.value, working.as_text())

    def test_the_value_is_the_figure(self):
        got = self.assessment.recorder("rec-1")
        self.assertEqual(
            self.working("days", "rec-1").value, f"{figure(got.promised_days)} days, with 95 % probability"
        )
        self.assertEqual(self.working("incoming", "rec-1").value, f"{figure(got.incoming_mbps)} Mb/s")
        self.assertEqual(
            self.working("rate", "cam-3").value, f"{figure(self.assessment.camera('cam-3').rate_mbps)} Mb/s"
        )

    def test_what_a_camera_sees_is_worked_out_from_lens_and_distance(self):
        lines = {line.label: line.value for line in self.working("view", "cam-26").lines}
        self.assertEqual((lines["good for"], lines["focal length needed"]), ("recognise", "11.1 mm"))
        self.assertEqual(self.working("view", "cam-3").value, "none")

    def test_a_promise_tells_its_assumptions_and_stands_beside_the_mean(self):
        working, got = self.working("days", "rec-1"), self.assessment.recorder("rec-1")
        self.assertEqual(working.value, f"{figure(got.promised_days)} days, with 95 % probability")
        lines = {line.label: line for line in working.lines}
        self.assertEqual(lines["expected: mean rates, mean motion"].value, f"{figure(got.mean_days)} days")
        self.assertEqual(
            next(v.value for k, v in lines.items() if k.startswith("certain")), "none: a camera has no maximum"
        )
        self.assertEqual(lines["a day's events vary by"].value, "40 %")
        self.assertEqual(lines["correlation of a day with the next"].origin, "assumed")
        self.assertIn("at 51.5° latitude", lines["dark"].value)

    def test_inputs_tell_where_they_come_from(self):
        origins = {line.label: line.origin for line in self.working("days", "rec-1").lines}
        self.assertEqual((origins["drives"], origins["reserve"], origins["usable"]), ("plan", "assumed", "calculated"))
        measured = next(c for c in self.assessment.job.cameras if c.measured_mbps is not None)
        lines = self.working("rate", measured.id).lines
        self.assertEqual({line.origin for line in lines if line.label != "estimated otherwise"}, {"measured"})
        self.assertIn("assumed", {line.origin for line in self.working("rate", "cam-3").lines})

    def test_a_radio_links_working_carries_units_and_agrees_with_its_capacity(self):
        working = self.working("radio", "link-42")
        values = {line.label: line.value for line in working.lines}
        self.assertEqual((values["distance"], values["tx gain"], values["frequency"]), ("0.9 km", "13 dBi", "5.5 GHz"))
        capacity = self.assessment.facts.topology.wiring.capacity_mbps["link-42"]
        self.assertEqual(working.value, f"{figure(capacity)} Mb/s")
        self.assertIsNone(self.working("radio", "link-1"))

    def test_a_slow_link_tells_its_largest_key_frame(self):
        lines = {line.label: line for line in self.working("load", "link-42").lines}
        self.assertEqual(lines["largest key frame, of Halt panorama"].value, "168 ms")
        self.assertEqual(lines["capacity each way"].origin, "calculated")
        self.assertFalse(any("key frame" in line.label for line in self.working("load", "link-37").lines))

    def test_power_tells_its_spare_share(self):
        values = {line.label: line.value for line in self.working("power", "net-7").lines}
        self.assertEqual((values["spare at night"], values["allocated by class"]), ("20.7 %", "90.8 W"))

    def test_figures_carry_units(self):
        values = {line.label: line.value for line in self.working("days", "rec-1").lines}
        self.assertEqual((values["drive"], values["reserve"]), ("8 TB", "5 %"))

    def test_what_is_gone_has_none(self):
        for ref in (FigureRef("days", "rec-9"), FigureRef("rate", "cam-99")):
            self.assertIsNone(working_of(ref, self.assessment))

    def test_trouble_and_nothing_recorded_are_said(self):
        broken = assess(job_with([camera(1)], recorders=[recorder(drives=0)]))
        self.assertEqual(working_of(FigureRef("days", "rec-1"), broken).value, "0, no storage")
        empty = assess(job_with())
        self.assertIn("nothing is recorded", working_of(FigureRef("days", "rec-1"), empty).value)

    def test_events_that_run_together_without_end_still_have_a_working(self):
        job = job_with([camera(1, events_per_h=100_000, event_s=86_400)], schedules=(week_of("motion"),))
        self.assertTrue(working_of(FigureRef("gb-per-day", "cam-1"), assess(job)).lines)


def curve(assessment, ids=(), setting="fps"):
    """The curve, when all of its steps are done."""
    steps = days_curve(assessment, "rec-1", ids, setting)
    try:
        while True:
            next(steps)
    except StopIteration as done:
        return done.value


class Curves(unittest.TestCase):
    def test_the_present_point_lies_on_the_curve(self):
        for rates in ({}, {"measured_mbps": 3, "rate_control": "VBR", "cap_mbps": None}):
            assessment = assess(job_with([camera(n, **rates) for n in (1, 2, 3)]))
            now = assessment.recorder("rec-1")
            for setting in ("fps", "key_frame_s", "width_px"):
                with self.subTest(setting, **rates):
                    got = curve(assessment, (), setting)
                    at = got.values.index(got.now)
                    self.assertAlmostEqual(got.promised_days[at], now.promised_days)
                    self.assertAlmostEqual(got.mean_days[at], now.mean_days)
                    self.assertLess(min(got.promised_days), 0.9 * now.promised_days, "a measured rate is carried along")

    def test_more_frames_keep_fewer_days(self):
        got = curve(assess(job_with([camera(1)])))
        self.assertEqual(list(got.promised_days), sorted(got.promised_days, reverse=True))
        for promised, mean in zip(got.promised_days, got.mean_days, strict=True):
            self.assertLess(promised, mean)

    def test_what_is_adopted_keeps_the_days_of_the_curve(self):
        job = job_with([camera(1), camera(2, measured_mbps=3, rate_control="VBR", cap_mbps=None)])
        got = curve(assess(job), ["cam-2"])
        self.assertEqual(got.cameras, 1)
        after = assess(set_fields(["cam-2"], "x", fps=30).apply(job))
        self.assertAlmostEqual(got.promised_days[got.values.index(30)], after.recorder("rec-1").promised_days)

    def test_the_picture_keeps_its_shape(self):
        fields = SETTINGS["width_px"].fields(camera(1, width_px=1920, height_px=1080), 1280)
        self.assertEqual(fields, {"width_px": 1280, "height_px": 720})

    def test_where_there_is_nothing_to_draw(self):
        self.assertIsNone(curve(assess(job_with())))
        self.assertIsNone(curve(assess(job_with([camera(1)], recorders=[]))))
        idle = job_with([camera(1)], schedules=(week_of("off"),))
        self.assertIsNone(curve(assess(idle)))


class Verdicts(unittest.TestCase):
    def test_every_stage_has_one_for_any_job(self):
        jobs = {
            "empty": EMPTY_JOB,
            "demo": demo_job(),
            "fine": job_with([camera(1)]),
            "nothing but cameras": job_with(
                [camera(1, registered=(), schedule="")], recorders=(), schedules=(), subnets=()
            ),
        }
        for name, job in jobs.items():
            for stage in STAGES:
                with self.subTest(job=name, stage=stage):
                    verdict = verdict_of(stage, assess(job))
                    self.assertTrue(verdict.sentence and verdict.facts)

    def test_sizing_answers_the_question(self):
        for days, words in ((1, "1 days can be promised"), (9000, "can promise")):
            job = job_with([camera(1)], retention=Retention(least_days=days))
            self.assertIn(words, verdict_of("sizing", assess(job)).sentence)
        broken = job_with([camera(1)], recorders=[recorder(drives=0)])
        self.assertEqual(verdict_of("sizing", assess(broken)).sentence, "Recorder 1 has no usable storage")

    def test_proof_counts(self):
        job = job_with([camera(1)])
        facts = assess(job).facts
        needed = [(device.id, test.id) for device in facts.devices for test in tests_on(facts, device)]
        needed += [("site", test.id) for test in site_tests(facts)]
        job = record_checks([Check(device=one, check=test, outcome="passed") for one, test in needed]).apply(job)
        self.assertEqual(progress(assess(job).facts), (len(needed), len(needed)))
        self.assertIn("All", verdict_of("proof", assess(job)).sentence)
        stray = record_checks([Check(device="gone", check="picture", outcome="passed")]).apply(job)
        self.assertEqual(progress(assess(stray).facts), (len(needed), len(needed)))


if __name__ == "__main__":
    unittest.main()
