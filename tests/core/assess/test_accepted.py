"""Findings that are meant so: silent, with a reason, until what they are about changes."""

import unittest

from eager_lens.cli.job import as_json
from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.accepting import accept, take_back
from eager_lens.core.job.edits import set_fields, with_parts
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.model import Link
from eager_lens.core.outgoing.handover.modes import sheets_of
from tests.support import camera, codes, finding_of, job_with, switch


def ring():
    """Three switches in a ring."""
    switches = tuple(switch(n, subnet="lan-1", address=f"172.22.40.{9 + n}") for n in (1, 2, 3))
    ends = (("net-1", "net-2"), ("net-2", "net-3"), ("net-3", "net-1"))
    links = [Link(id=f"link-{a}", a=a, b=b) for a, b in ends]
    links += [Link(id="link-c", a="cam-1", b="net-1", b_port=1), Link(id="link-r", a="rec-1", b="net-2")]
    return job_with([camera(1)], network=switches, links=tuple(links), prepared_by="Wren")


class AcceptedFindings(unittest.TestCase):
    def setUp(self):
        self.job = ring()
        self.finding = finding_of(self.job, "loop")
        edit = accept(self.finding.code, self.finding.subjects, self.finding.title, " spanning tree is on ")
        self.accepted = edit.apply(self.job)

    def test_it_is_silent_and_told_apart(self):
        assessment = assess(self.accepted)
        self.assertNotIn("loop", codes(self.accepted))
        self.assertEqual([one.code for one in assessment.accepted], ["loop"])
        self.assertEqual(assessment.open_count("wiring"), assess(self.job).open_count("wiring") - 1)
        (entry,) = as_json(assessment)["accepted"]
        self.assertEqual((entry["code"], entry["why"], entry["by"]), ("loop", "spanning tree is on", "Wren"))

    def test_it_comes_back_when_it_is_about_others_and_when_it_is_taken_back(self):
        more = with_parts(self.accepted, links=(*self.accepted.links, Link(id="link-x", a="net-1", b="net-2")))
        self.assertIn("loop", codes(more))
        back = take_back(self.finding.code, self.finding.subjects, self.finding.title)
        self.assertEqual(back.apply(self.accepted).accepted, ())
        self.assertIn("loop", codes(back.apply(self.accepted)))

    def test_accepted_twice_it_is_said_once(self):
        again = accept(self.finding.code, self.finding.subjects, self.finding.title, "RSTP").apply(self.accepted)
        self.assertEqual([one.why for one in again.accepted], ["RSTP"])

    def test_it_is_on_the_handover_sheet_and_in_the_file(self):
        sheets = sheets_of("as built", assess(self.accepted), "28 November 2026").sheets
        sheet = next(one for one in sheets if one.title == "Still open")
        self.assertIn("spanning tree is on", str(sheet.blocks[-1].rows))
        self.assertIn("Wren", str(sheet.blocks[-1].rows))
        self.assertEqual(job_from_text(job_text(self.accepted)), self.accepted)

    def test_an_edit_keeps_it_accepted(self):
        before = assess(self.accepted)
        after = assess(set_fields(["cam-1"], "x", fps=9).apply(self.accepted), before)
        self.assertEqual([one.code for one in after.accepted], ["loop"])


if __name__ == "__main__":
    unittest.main()
