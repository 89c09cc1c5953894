"""What is settled step by step is what comes out when everything is worked out anew."""

import random
import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import remove_devices
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.runbook.commissioning import commissioning
from eager_lens.core.runbook.next_step import next_step
from eager_lens.core.runbook.play import played
from eager_lens.core.runbook.timing import scheduled
from eager_lens.core.simulation.actions import do
from eager_lens.core.simulation.build import site_of
from eager_lens.core.simulation.segments import Segments
from eager_lens.core.simulation.site import NotOnSite
from tests.support import demo_job


def heard(segments):
    """Broadcast domains as plain sets; a side that hears nobody is none."""
    return {frozenset(segment) for segment in segments.values() if len(segment) > 1}


def holders(site):
    found = {}
    for unit in site.units.values():
        for side in unit.sides if unit.runs else ():
            if side.address:
                found.setdefault(side.address, []).append((unit.id, side.name))
    return found


class StepByStep(unittest.TestCase):
    SITE_ACTIONS = ("power on", "power off", "plug", "unplug", "soft reset", "laptop lease", "update", "set up")

    def compare(self, site, after):
        site.segment(site.laptop, site.laptop.sides[0])
        self.assertEqual(heard(site._segments.of), heard(Segments(site.units, site.cables.values()).of), after)
        held = {number: [(u.id, s.name) for u, s in pairs] for number, pairs in site._held().items() if pairs}
        self.assertEqual(held, holders(site), after)
        self.assertEqual(set(site.shared()), {number for number, pairs in held.items() if len(pairs) > 1}, after)
        before = [(unit.id, unit.phase, unit.feeding.source) for unit in site.units.values()]
        site.changed()
        site.settle()
        self.assertEqual(before, [(unit.id, unit.phase, unit.feeding.source) for unit in site.units.values()], after)

    def test_random_deeds_on_the_demos_site(self):
        from eager_lens.core.simulation.actions import SITE_ACTIONS

        names = [name for name in self.SITE_ACTIONS if name in SITE_ACTIONS]
        self.assertGreater(len(names), 4)
        for seed in range(3):
            chance = random.Random(seed)
            site = site_of(assess(demo_job()), Rehearsal())
            for at in range(120):
                name, unit = chance.choice(names), chance.choice(list(site.units.values()))
                try:
                    do(site, name, unit.id, {})
                except RefusedInput:
                    continue
                site.run_to(site.now_s + chance.choice((0.0, 5.0, 90.0)))
                self.compare(site, f"seed {seed}, action {at}: {name} on {unit.id}")

    def test_after_the_whole_commissioning(self):
        assessment = assess(demo_job())
        site = site_of(assessment, Rehearsal())
        played(site, scheduled(commissioning(assessment).steps, 2))
        self.compare(site, "commissioning")


class AnOlderPlan(unittest.TestCase):
    """The plan in the window may be of another job than the site that stands."""

    def test_steps_on_devices_that_the_site_lacks_are_not_done_and_break_nothing(self):
        job = demo_job()
        placed = scheduled(commissioning(assess(job)).steps, 1)
        gone = [job.cameras[0].id, job.recorders[0].id, job.network[0].id]
        site = site_of(assess(remove_devices(gone, "Remove").apply(job)), Rehearsal())
        found = next_step(site, placed)
        self.assertIsNotNone(found)
        lacking = [one.step for one in placed if one.step.device_id in gone]
        self.assertTrue(lacking)
        for step in lacking:
            self.assertTrue(step.still_wrong(site))
            self.assertEqual(step.left_s(site), 0.0)

    def test_it_is_told_in_words(self):
        site = site_of(assess(demo_job()), Rehearsal())
        with self.assertRaises(NotOnSite) as caught:
            site.units["cam-9999"]
        self.assertIn("cam-9999 is not on the simulated site", str(caught.exception))
