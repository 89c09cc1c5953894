"""Rules under a name."""

import unittest

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.saved_rules import give_rule, name_of, remove_rule, save_rule
from eager_lens.core.values.motion_rule import MotionRule
from tests.support import camera, job_with

WINDY = MotionRule(sensitivity=20)


class Saved(unittest.TestCase):
    def setUp(self):
        self.job = save_rule(" Yards in wind ", WINDY).apply(job_with([camera(1), camera(2), camera(3)]))

    def test_it_is_given_to_many_and_stays_in_the_file(self):
        job = give_rule(self.job, "rule-1", ["cam-1", "cam-3"]).apply(self.job)
        self.assertEqual([one.motion_rule for one in job.cameras], [WINDY, None, WINDY])
        self.assertEqual(job_from_text(job_text(job)), job)
        self.assertEqual(name_of(job, WINDY), "Yards in wind")
        self.assertEqual(name_of(job, MotionRule()), "")

    def test_the_same_name_is_replaced_and_cameras_keep_what_they_have(self):
        job = give_rule(self.job, "rule-1", ["cam-1"]).apply(self.job)
        job = save_rule("Yards in wind", MotionRule(sensitivity=10)).apply(job)
        self.assertEqual([(one.id, one.rule.sensitivity) for one in job.rules], [("rule-1", 10)])
        self.assertEqual(job.cameras[0].motion_rule, WINDY)

    def test_taken_away_it_is_gone_and_its_id_is_not_given_again_at_once(self):
        job = save_rule("Halls", MotionRule(sensitivity=60)).apply(self.job)
        job = remove_rule("rule-1").apply(job)
        self.assertEqual([one.name for one in job.rules], ["Halls"])
        with self.assertRaises(RefusedInput):
            give_rule(job, "rule-1", ["cam-1"])

    def test_a_rule_without_a_name_is_refused(self):
        with self.assertRaises(RefusedInput) as caught:
            save_rule("  ", WINDY).apply(self.job)
        self.assertIn("give the rule a name", str(caught.exception))


if __name__ == "__main__":
    unittest.main()
