"""Answers of the simulated site: by what is so there. Faults are put there, and found without the table's word."""

import unittest
from random import Random

from eager_lens.core.assess.assessment import assess
from eager_lens.core.fault_finder.on_site import CAUSES_OF, SiteAnswers, symptoms_of
from eager_lens.core.fault_finder.table import usual_table
from eager_lens.core.fault_finder.trials import put_one, searched, trials
from eager_lens.core.virtual_site.commissioned import commissioned
from eager_lens.core.virtual_site.faults import FAULTS
from tests.support import demo_job


class OnSite(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.assessment = assess(demo_job())

    def site(self, name="Driver sign-on", fault=""):
        site = commissioned(self.assessment)
        site.run_to(site.now_s + 200)
        camera = next(one for one in self.assessment.job.cameras if one.name == name)
        unit = site.units[camera.id]
        if fault:
            FAULTS[fault].put(site, unit)
        return SiteAnswers(site, unit, camera)

    def answers(self, at, *tests):
        return [at.answer(test) for test in tests]

    def test_a_camera_that_is_right_shows_nothing(self):
        at = self.site()
        self.assertEqual(symptoms_of(at), [])
        self.assertEqual(
            self.answers(at, "ping", "held", "search", "login", "stream", "status", "link", "clock"),
            ["answers", "{mac}", "at {address}", "taken", "plays well", "receiving", "on", "right"],
        )
        self.assertIsNone(at.answer("flicker"))

    def test_every_answer_is_one_of_the_tables(self):
        table = usual_table()
        for fault in CAUSES_OF:
            at = self.site(fault=fault)
            for test in table.tests:
                words = at.answer(test.id)
                if words is not None:
                    self.assertIn(words, test.outcomes, (fault, test.id))

    def test_what_each_fault_looks_like(self):
        for fault, wanted in (
            ("unplugged", {"ping": "no answer", "link": "off", "cable-test": "a pair open or crossed"}),
            ("wrong-subnet", {"ping": "no answer", "search": "at an address of no other", "link": "on"}),
            ("twin", {"ping": "no answer", "search": "at an address that another has"}),
            ("frozen-lease", {"held": "another, or two in turn", "stranger": "a telephone or another stranger"}),
            ("wrong-password", {"login": "refused", "ping": "answers"}),
            ("protocol-off", {"search": "not in the list", "login": "taken", "protocol-set": "no"}),
            ("clock-hour", {"clock": "off by whole hours", "time-server": "none, or no answer"}),
            ("slow-start", {"ping": "no answer", "wait": "yes"}),
            ("slow-link", {"speed": "slower", "cable-test": "a pair open or crossed"}),
        ):
            at = self.site(fault=fault)
            self.assertEqual({test: at.answer(test) for test in wanted}, wanted, fault)

    def test_faults_are_found(self):
        """Nearly every one is named first, and in less than half of the time that a fixed order takes."""
        found = list(trials([self.assessment], 5, 60))
        fixed = list(trials([self.assessment], 5, 60, fixed=True))
        self.assertGreaterEqual(sum(one.is_first for one in found), 57)
        self.assertLess(sum(one.minutes for one in found), 0.6 * sum(one.minutes for one in fixed))

    def test_some_wrong_answers_do_not_hide_them(self):
        found = list(trials([self.assessment], 6, 60, wrong=0.05))
        self.assertGreaterEqual(sum(one.is_among_three for one in found), 54)

    def test_the_same_seed_finds_the_same(self):
        self.assertEqual(list(trials([self.assessment], 7, 5)), list(trials([self.assessment], 7, 5)))

    def test_where_a_fault_would_not_show_none_is_put(self):
        """A link at 10 Mb/s is noticed only where the stream peaks above it."""
        rng = Random(1)
        seen = [put_one(self.assessment, rng, "slow-link") for _ in range(4)]
        for at in seen:
            if at is not None:
                self.assertEqual(symptoms_of(at)[0], "stutters")
                self.assertIn("slow-pair", searched(self.assessment, at, "slow-link", rng, 0).named)


if __name__ == "__main__":
    unittest.main()
