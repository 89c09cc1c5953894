"""Old jobs: a file says by which model its figures were made, and papers that were handed over keep theirs."""

import json
import math
import unittest
from unittest import mock

from eager_lens.core.assess import model_changes
from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.model_changes import MODEL, figures_of, handed_over, since_then
from eager_lens.core.errors import DamagedFile
from eager_lens.core.job.edits import note_handed_over, set_fields
from eager_lens.core.job.file import job_text, read_job, write_job
from eager_lens.core.job.kept_figures import KeptFigures, RecorderKept
from eager_lens.core.outgoing.handover.plan_sheets import storage_sheet
from tests.support import FolderCase, camera, demo_job, job_with


class InFiles(FolderCase):
    def test_a_file_holds_the_figures_that_it_was_saved_with(self):
        path = self.folder / "job.lens.json"
        assessment = assess(demo_job())
        write_job(path, demo_job(), None, figures=figures_of(assessment))
        read = read_job(path)
        self.assertEqual((read.job, read.figures.model), (demo_job(), MODEL))
        kept = {one.id: one.promised_days for one in read.figures.recorders}
        self.assertEqual(kept, {one.id: assessment.recorder(one.id).promised_days for one in demo_job().recorders})

    def test_a_file_without_them_opens_and_one_with_nonsense_is_refused(self):
        path = self.folder / "job.lens.json"
        write_job(path, demo_job(), None)
        self.assertIsNone(read_job(path).figures)
        document = {**json.loads(job_text(demo_job())), "figures": {"model": "two"}}
        path.write_text(json.dumps(document), "utf-8")
        with self.assertRaisesRegex(DamagedFile, "figures.model"):
            read_job(path)


class SinceThen(unittest.TestCase):
    def setUp(self):
        self.assessment = assess(job_with([camera(1)]))
        self.now = self.assessment.recorder("rec-1").promised_days

    def kept(self, model, days):
        return KeptFigures(model=model, recorders=(RecorderKept(id="rec-1", name="Recorder 1", promised_days=days),))

    def test_todays_figures_need_no_word(self):
        self.assertEqual(since_then(figures_of(self.assessment), self.assessment), "")

    def test_what_differs_and_why(self):
        words = since_then(self.kept(1, 25.7), self.assessment)
        self.assertIn("Recorder 1 promised 25 days then", words)
        self.assertIn("since 0.2 bit rates are estimated", words)
        self.assertEqual(since_then(self.kept(1, self.now * 1.005), self.assessment), "", "alike")
        self.assertIn("without its figures", since_then(None, self.assessment))
        self.assertEqual(since_then(None, assess(job_with())), "", "there is no figure to differ")

    def test_only_changes_since_its_model_are_named(self):
        changes = {**model_changes.CHANGES, MODEL + 1: ("0.3", "caps are promised")}
        with mock.patch.multiple(model_changes, CHANGES=changes, MODEL=MODEL + 1):
            words = since_then(self.kept(MODEL, 25.7), self.assessment)
        self.assertIn("since 0.3 caps are promised", words)
        self.assertNotIn("0.2", words)


class HandedOver(unittest.TestCase):
    def test_papers_keep_their_figures_beside_todays(self):
        job = demo_job()
        then = assess(job).recorder("rec-1").promised_days
        edit = note_handed_over(handed_over(assess(job), "As built", "2026-12-01T10:00", "WA"))
        job = edit.apply(job)
        self.assertIs(edit.apply(job), job, "the same figures are kept once")
        job = set_fields(["rec-1"], "x", drives=4).apply(job)
        table = next(
            one for one in storage_sheet(assess(job)).blocks if getattr(one, "caption", "") == "As handed over"
        )
        row = table.rows[0]
        self.assertEqual(row[:2], ("2026-12-01 10:00", "As built"))
        self.assertEqual(float(row[3]), math.floor(then))
        self.assertGreater(float(row[4]), then)


if __name__ == "__main__":
    unittest.main()
