"""What the job says of a fault: traits, findings, names in the questions, a site check's answers, parts in common."""

import random
import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.finding import Severity
from eager_lens.core.fault_finder.for_job import (
    job_case,
    traits_of_fault,
)
from eager_lens.core.fault_finder.groups import common_parts
from eager_lens.core.fault_finder.inference import cause_chances
from eager_lens.core.fault_finder.known_answers import AS_ANSWERS, answers_of_check
from eager_lens.core.fault_finder.names import names_of
from eager_lens.core.fault_finder.search import FaultSearch, percent
from eager_lens.core.fault_finder.table import usual_table
from eager_lens.core.site_check.lines import SiteCode, SiteLine
from eager_lens.core.site_check.verdicts import Row
from tests.support import camera, demo_job, job_with, one_in


class DemoFaults(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.assessment = assess(demo_job())
        cls.devices = {device.name: device for device in cls.assessment.facts.devices}

    def case(self, name, symptom):
        return job_case(self.assessment, self.devices[name], symptom)

    def test_a_switch_over_its_budget_speaks_for_the_budget(self):
        found = self.case("Yard gate", "night")
        likely = {one.cause.id: one.words for one in found.said if one.likely}
        self.assertIn("264 of 250 W", likely["budget"])
        without = job_case(self.assessment, self.devices["Yard gate"], "night", from_findings=False)
        raised, plain = (dict(cause_chances(one.case, []))["budget"] for one in (found, without))
        self.assertGreater(raised, 1.5 * plain)

    def test_what_a_device_does_not_have_is_ruled_out_with_the_reason(self):
        found = self.case("Driver sign-on", "no-picture")
        out = {one.cause.id: one.words for one in found.said if not one.likely}
        self.assertEqual(out["radio-weak"], "no radio link is on its path")
        self.assertNotIn("radio-weak", found.case.cause_ids)
        self.assertNotIn("signal", {test.id for test in found.case.tests})

    def test_a_finding_about_other_cameras_says_nothing_of_this_one(self):
        """One camera's codec is not taken by its recorder; the others there are not suspected for it."""
        codec = next(one for one in self.assessment.findings if one.code == "codec")
        cameras = self.assessment.job.cameras
        guilty = next(one for one in cameras if one.id in codec.subjects)
        recorder = guilty.registered[0].recorder
        on_it = [one for one in cameras if one.registered and one.registered[0].recorder == recorder]
        spared = next(one for one in on_it if one.id not in codec.subjects)
        said = [job_case(self.assessment, one, "no-picture").said for one in (guilty, spared)]
        self.assertIn("codec", [one.cause.id for one in said[0] if one.likely])
        self.assertNotIn("codec", [one.cause.id for one in said[1] if one.likely])

    def test_the_names_of_the_job_stand_in_the_questions(self):
        found = self.case("Driver sign-on", "no-picture")
        asks = {test.id: found.filled(test.ask) for test in found.case.tests}
        self.assertEqual(asks["ping"], "Ping 172.22.40.45 from the laptop at 172.22.40.254")
        self.assertIn("Hall switch, port", asks["link"])
        self.assertIn("Open rtsp://172.22.40.45:554/main in a player", asks["stream"])
        self.assertIn("swap port 6 with port 1, of Hall doors east", asks["swap-port"])
        self.assertIn("Car hall recorder, channel 6", asks["status"])

    def test_every_device_and_symptom_goes_to_an_end(self):
        """Whatever is answered: it ends, names something, and no text keeps a brace."""
        rng = random.Random(7)
        table = usual_table()
        for device in one_in(5, self.assessment.facts.devices):
            for symptom in table.symptoms:
                search = FaultSearch(job_case(self.assessment, device, symptom.id))
                steps = 0
                while (asked := search.asked) is not None:
                    search = search.answered(rng.choice([None, *range(len(asked.test.outcomes))]))
                    steps += 1
                    self.assertLess(steps, len(table.tests))
                words = search.report() + "".join(search.remedy_of(search.ranked[0][0]))
                words += "".join(search.checks_after(search.ranked[0][0]))
                self.assertNotIn("{", words)
                self.assertAlmostEqual(search.of.case.prior.sum(), 1)

    def test_parts_in_common(self):
        """All behind one switch down: that switch or what stands for the same cameras is first; two of many: not."""
        wiring = self.assessment.facts.topology.wiring
        yard = self.devices["Yard switch"].id
        down = [one for one, hangs_on in wiring.hangs_on.items() if hangs_on == yard]
        best = common_parts(self.assessment, down)[0]
        self.assertEqual((best.down, best.behind), (len(down), len(down)))
        everything = [one.id for one in self.assessment.job.cameras]
        parts = {one.name: one for one in common_parts(self.assessment, everything)}
        self.assertGreaterEqual(parts["Yard switch"].behind, len(down))
        self.assertEqual(common_parts(self.assessment, down[:1]), [])

    def test_a_search_is_taken_back_and_chosen(self):
        search = FaultSearch(self.case("Driver sign-on", "no-picture"))
        first = search.asked.test.id
        other = search.proposed[3].test.id
        chosen = search.choosing(other)
        self.assertEqual(chosen.asked.test.id, other)
        after = chosen.answered(0).answered(0)
        self.assertEqual(next(one.test for one in after.answers), other)
        back = after.taken_back().taken_back()
        self.assertEqual(back.asked.test.id, first)
        self.assertEqual([chance for _, chance in back.ranked], [chance for _, chance in search.ranked])
        self.assertEqual([one.test for one in after.taken_back(other).answers], [after.answers[1].test])

    def test_it_was_not_this(self):
        search = FaultSearch(self.case("Driver sign-on", "no-picture"))
        first = search.ranked[0][0].id
        after = search.not_this()
        self.assertNotEqual(after.ranked[0][0].id, first)
        self.assertIn("did not help", after.report())

    def test_a_site_check_answers(self):
        table = usual_table()
        for pairs in AS_ANSWERS.values():
            for test, outcome in pairs:
                self.assertIn(outcome, table.test(test).outcomes)
        device = self.devices["Lathe"]
        lines = tuple(SiteLine(Severity.FAULT, code, "") for code in (SiteCode.NOT_HEARD, SiteCode.NO_PAGE))
        found = answers_of_check(table, Row("x", device, "Lathe", "", "", "", lines, True))
        self.assertEqual([one.test for one in found], ["ping", "login", "search"])
        search = FaultSearch(self.case("Lathe", "no-picture"))
        with_found = search.with_answers(found)
        self.assertEqual(with_found.answers, tuple(found))
        self.assertEqual(with_found.with_answers(found).answers, with_found.answers)


class Bare(unittest.TestCase):
    def test_a_camera_of_which_nothing_is_known(self):
        assessment = assess(job_with([camera(1, address="", mac_address="")]))
        one = assessment.job.cameras[0]
        names = names_of(assessment, one)
        self.assertEqual(names["switch"], "the switch")
        self.assertIn("none is planned", names["address"])
        self.assertNotIn("switched", traits_of_fault(assessment, one))
        self.assertIsNotNone(FaultSearch(job_case(assessment, one, "no-picture")).asked)

    def test_chances_in_words(self):
        self.assertEqual([percent(one) for one in (0.999, 0.5, 0.004, 0)], ["99 %", "50 %", "under 1 %", "under 1 %"])


if __name__ == "__main__":
    unittest.main()
