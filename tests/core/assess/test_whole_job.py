"""Figures of the whole job, and who comes nearest to a limit."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.whole_job import busiest_recorder, fullest_supplier, tightest_recorder
from eager_lens.core.assess.rules import KINDS
from eager_lens.core.job.model import EMPTY_JOB, Link, Registration
from eager_lens.core.present.readout import readings
from eager_lens.core.present.stages import RECORDS, verdict_of
from tests.support import camera, job_with, recorder, switch


def two_recorders(**more):
    """Four cameras of 2 Mb/s: three on a recorder of 10 TB, one on one of 1 TB."""
    cameras = [
        camera(
            number, measured_mbps=2.0, registered=(Registration(recorder=f"rec-{1 + (number > 3)}", channel=number),)
        )
        for number in range(1, 5)
    ]
    return job_with(cameras, [recorder(1, drive_tb=10), recorder(2, drive_tb=1)], **more)


class WholeJobFigures(unittest.TestCase):
    def test_sums_agree_with_what_the_parts_say(self):
        assessment = assess(two_recorders())
        whole, facts = assessment.whole, assessment.facts
        self.assertEqual((whole.cameras, whole.recorders, whole.registered, whole.with_address), (4, 2, 4, 6))
        self.assertAlmostEqual(whole.rate_mbps, 8.0)
        self.assertAlmostEqual(whole.stored_gb_per_day, 8 * 86400 / 8 / 1000)
        self.assertAlmostEqual(whole.usable_tb, sum(got.usable_tb for got in facts.recorder_figures.values()))
        self.assertEqual(whole.promised_days, min(got.promised_days for got in facts.recorder_figures.values()))

    def test_tightest_is_not_busiest(self):
        facts = assess(two_recorders()).facts
        self.assertEqual(tightest_recorder(facts).id, "rec-2")
        self.assertEqual(busiest_recorder(facts).id, "rec-1")

    def test_the_fullest_supplier_is_found_by_share_not_by_watts(self):
        cameras = [camera(1, power_w=9.0), camera(2, power_w=6.0)]
        switches = (switch(1, poe_ports=4, budget_w=60.0), switch(2, poe_ports=1, budget_w=8.0))
        links = tuple(Link(id=f"link-{n}", a=f"cam-{n}", b=f"net-{n}", b_port=1) for n in (1, 2))
        fullest = fullest_supplier(assess(job_with(cameras, network=switches, links=links)).facts)
        self.assertEqual((fullest.id, fullest.is_unit, fullest.budget_w), ("net-2", False, 8.0))

    def test_headline_readout_and_figures_name_the_same_recorder(self):
        assessment = assess(two_recorders())
        tightest = tightest_recorder(assessment.facts)
        self.assertIn(tightest.name, verdict_of("sizing", assessment).sentence)
        self.assertIn(tightest.name, readings(assessment)[0].words)

    def test_an_empty_job_has_no_days_and_no_tightest(self):
        assessment = assess(EMPTY_JOB)
        self.assertIsNone(assessment.whole.promised_days)
        self.assertIsNone(tightest_recorder(assessment.facts))
        self.assertIsNone(busiest_recorder(assessment.facts))
        self.assertIsNone(fullest_supplier(assessment.facts))


class OneList(unittest.TestCase):
    def test_every_stage_has_a_word_a_purpose_and_a_verdict(self):
        for record in RECORDS:
            with self.subTest(record.id):
                self.assertTrue(record.words and record.purpose)
                self.assertTrue(record.verdict(assess(EMPTY_JOB)).sentence)

    def test_kinds_of_findings_differ_in_their_codes_and_belong_to_a_stage(self):
        self.assertEqual(len({kind.code for kind in KINDS}), len(KINDS))
        self.assertLessEqual({kind.stage for kind in KINDS}, {record.id for record in RECORDS})
