"""Several devices down at once; tests that wait for another, or that a symptom hides; the order against the best one."""

import unittest
from random import Random

from eager_lens.core.assess.assessment import assess
from eager_lens.core.fault_finder.for_job import LACKS, job_case
from eager_lens.core.fault_finder.groups import common_parts
from eager_lens.core.fault_finder.inference import TestAnswer, case_of, cause_chances, proposals
from eager_lens.core.fault_finder.optimum import REMEDY_MIN, drawn_case, expected_minutes, small_case
from eager_lens.core.fault_finder.table import usual_table
from tests.support import demo_job


def answered(case, **words):
    return [TestAnswer(test, case.table.test(test).outcomes.index(one)) for test, one in words.items()]


class Groups(unittest.TestCase):
    def setUp(self):
        self.assessment = assess(demo_job())
        job = self.assessment.job
        self.host = next(one for one in job.network if one.name == "Halt switch")
        links = [link for link in job.links if self.host.id in (link.a, link.b)]
        cameras = {camera.id: camera for camera in job.cameras}
        self.behind = [cameras[one] for link in links for one in (link.a, link.b) if one in cameras]

    def chances(self, down, symptom="no-picture"):
        return dict(cause_chances(job_case(self.assessment, self.behind[0], symptom, down=down).case, []))

    def test_what_all_have_in_common_comes_first(self):
        down = [camera.id for camera in self.behind]
        self.assertEqual(common_parts(self.assessment, down)[0].behind, len(down))
        alone, together = self.chances(()), self.chances(down)
        shared = ("switch-off", "uplink", "radio-weak", "starting", "budget", "router-port", "vlan")
        self.assertGreater(sum(together.get(one, 0) for one in shared), 0.8)
        self.assertGreater(together["switch-off"], 4 * alone["switch-off"])
        self.assertLess(together["password"], alone["password"] / 4)

    def test_the_reason_names_the_part(self):
        of = job_case(self.assessment, self.behind[0], "no-picture", down=[camera.id for camera in self.behind])
        words = [one.words for one in of.said if one.likely and one.cause.id == "switch-off"]
        self.assertIn(f"{len(self.behind)} of {len(self.behind)} cameras behind Halt switch are down", words)
        self.assertNotIn("others", {test.id for test in of.case.tests})

    def test_one_that_is_down_alone_changes_nothing(self):
        self.assertEqual(self.chances(()), self.chances([self.behind[0].id]))


class Order(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.table = usual_table()

    def case(self, symptom):
        return case_of(self.table, symptom, frozenset(LACKS))

    def test_a_test_waits_for_what_it_takes(self):
        case = self.case("no-picture")
        self.assertNotIn("default-address", {one.test.id for one in proposals(case, [])})
        after = answered(case, search="at an unused address")
        self.assertIn("default-address", {one.test.id for one in proposals(case, after)})
        after = answered(case, search="not in the list")
        self.assertNotIn("default-address", {one.test.id for one in proposals(case, after)})

    def test_what_fails_at_night_is_not_seen_by_day(self):
        night, day = self.case("night"), self.case("no-picture")
        for case, changes in ((night, False), (day, True)):
            before = dict(cause_chances(case, []))
            after = dict(cause_chances(case, answered(case, power="refused: over the budget")))
            self.assertEqual(after["budget"] > 2 * before["budget"], changes)
        seen = dict(cause_chances(night, answered(night, **{"night-power": "no: over the budget"})))
        self.assertGreater(seen["budget"], 0.8)

    def test_remote_viewing_is_asked_about_where_it_fails(self):
        self.assertIn("relay", {test.id for test in self.case("remote").tests})
        self.assertNotIn("relay", {test.id for test in self.case("no-picture").tests})

    def test_the_best_order_is_never_worse_and_hardly_better(self):
        rng = Random(4)
        own = best = 0.0
        for symptom in ("no-picture", "comes-and-goes", "no-clip", "remote"):
            for _ in range(3):
                small = drawn_case(self.case(symptom), 4, 4, rng)
                one, other = expected_minutes(small, exhaustive=False), expected_minutes(small, exhaustive=True)
                self.assertLessEqual(other, one + 1e-9)
                own, best = own + one, best + other
        self.assertLess(own, 1.15 * best)

    def test_without_tests_the_remedies_are_tried_in_turn(self):
        case = self.case("wrong-time")
        zone, server = (case.hypotheses.index((one,)) for one in ("zone", "no-server"))
        small = small_case(case, [zone, server], [])
        wanted = REMEDY_MIN * float(min(small.prior))
        self.assertAlmostEqual(expected_minutes(small, exhaustive=True), wanted)


if __name__ == "__main__":
    unittest.main()
