"""The mounting lists: which steps a device has, and lists that go from firm to firm."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import MakeProfile
from eager_lens.core.job.proof import MountingStep
from eager_lens.core.job.proving import set_mounting_list, tick_mounting
from eager_lens.core.job.rehearsal import Tick
from eager_lens.core.runbook.mounting import list_from_text, list_text, mounted_devices, steps_on, usual_steps
from tests.support import camera, demo_job, job_with, switch


def ids_of(job, device_id="cam-1"):
    assessment = assess(job)
    return [one.step.id for one in steps_on(assessment.facts.by_device_id[device_id], assessment)]


class Mounting(unittest.TestCase):
    def test_the_list_is_that_of_the_device(self):
        outdoors = ids_of(job_with([camera(1, outdoor=True, housing="bullet", fixed_to="pole")]))
        for step in ("loop", "surge", "shield", "pole", "infrared", "film"):
            self.assertIn(step, outdoors)
        for step in ("infrared-in", "dome", "lead", "hidden", "ends", "rack"):
            self.assertNotIn(step, outdoors)
        indoors = ids_of(job_with([camera(1, housing="dome", fixed_to="ceiling", poe_class=None)]))
        for step in ("infrared-in", "dome", "lead", "hidden"):
            self.assertIn(step, indoors)
        self.assertNotIn("loop", indoors)
        bridge = ids_of(job_with([camera(1)], network=(switch(role="bridge"),)), "net-1")
        self.assertIn("ends", bridge)
        self.assertNotIn("focus", bridge)
        self.assertIn("rack", ids_of(job_with([camera(1)]), "rec-1"))

    def test_the_gland_comes_before_the_plug_and_the_film_off_last(self):
        steps = ids_of(job_with([camera(1, outdoor=True)]))
        self.assertLess(steps.index("gland"), steps.index("crimped"))
        self.assertLess(steps.index("crimped"), steps.index("tested"))
        self.assertLess(steps.index("nuts"), steps.index("film"))

    def test_time_in_the_box_by_temperature(self):
        def text(minutes):
            profile = MakeProfile(make="Quill", in_box_min=minutes)
            assessment = assess(job_with([camera(1, make="Quill 4")], make_profiles=(profile,)))
            steps = steps_on(assessment.facts.by_device_id["cam-1"], assessment)
            return next((one.text for one in steps if one.step.id == "box-set-up"), "")

        self.assertIn("10 min at 20 °C, 6 min at 30 °C", text(10))
        self.assertEqual(text(0), "", "a make that may not run in its box")

    def test_ticks_are_those_of_the_device(self):
        job = tick_mounting([Tick(step="cam-2/gland", by="WA")]).apply(job_with([camera(1), camera(2)]))
        assessment = assess(job)
        for device_id, by in (("cam-1", None), ("cam-2", "WA")):
            steps = steps_on(assessment.facts.by_device_id[device_id], assessment)
            tick = next(one.tick for one in steps if one.step.id == "gland")
            self.assertEqual(tick and tick.by, by)

    def test_what_can_hurt_has_its_caution(self):
        cautions = {step.id: step.caution for step in usual_steps() if step.caution}
        self.assertIn("licensed", cautions["surge"])
        self.assertIn("ladder", cautions["ladder"])
        self.assertIn("gas pipe", cautions["hidden"])
        self.assertGreater(len(cautions), 9)

    def test_a_firms_own_list_goes_out_and_comes_in(self):
        own = (
            MountingStep(id="a", stage="Box", text="Look", when=("camera",)),
            MountingStep(id="b", stage="Box", text="See"),
        )
        self.assertEqual(list_from_text(list_text(own)), own)
        self.assertEqual(list_from_text(list_text(usual_steps())), usual_steps())
        self.assertEqual(ids_of(set_mounting_list(own).apply(job_with([camera(1)]))), ["a", "b"])
        for wrong, words in (
            ("[]", ""),
            ('{"format": "shopping", "steps": []}', "not a mounting list"),
            ('{"format": "eager-lens-mounting-list", "version": 1, "steps": []}', "empty"),
            (list_text(own * 2), "more than once"),
            (list_text(tuple(MountingStep(id=str(n), stage="s", text="t") for n in range(501))), "500"),
        ):
            with self.assertRaisesRegex(RefusedInput, words):
                list_from_text(wrong)

    def test_the_demo_is_mounted_by_lists(self):
        job = demo_job()
        assessment = assess(job)
        devices = mounted_devices(job)
        self.assertEqual(len(devices), len(job.cameras) + 2 + len(job.recorders))
        for device in devices:
            self.assertGreaterEqual(len(steps_on(device, assessment)), 3, device.name)


if __name__ == "__main__":
    unittest.main()
