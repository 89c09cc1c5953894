"""Two people on one job, in the real window: another copy merged over the last common version, and a colleague's log."""

from eager_lens.core.job.edits import set_fields, set_retention
from eager_lens.core.job.file import read_job, write_job
from eager_lens.core.job.model import changed
from eager_lens.core.job.proof import Check
from eager_lens.core.job.proving import latest_checks, record_checks
from eager_lens.core.records.event_log.log_file import log_beside
from tests.desk.base import WindowCase
from tests.support import camera, job_with


def result(outcome, at, by="Site"):
    return record_checks([Check(device="cam-1", check="label", outcome=outcome, by=by, at=f"2026-11-20T{at}:00")])


class Merging(WindowCase):
    def saved(self):
        """A job that is saved, and a copy of it that the site took along."""
        self.open_job(job_with([camera(1, fps=12), camera(2, fps=12)], name="Depot"))
        self.mine, self.theirs = self.folder / "depot.lens.json", self.folder / "site" / "depot.lens.json"
        self.theirs.parent.mkdir()
        self.session.save_as(self.mine)
        self.theirs.write_bytes(self.mine.read_bytes())
        log_beside(self.theirs).write_bytes(log_beside(self.mine).read_bytes())
        (self.folder / "common.lens.json").write_bytes(self.mine.read_bytes())

    def on_site(self, *edits):
        job = read_job(self.theirs).job
        for edit in edits:
            job = edit.apply(job)
        write_job(self.theirs, job, None, force=True)

    def view(self):
        view = self.window.merger.view
        self.assertTrue(view.isVisible())
        return view

    def test_what_only_the_site_changed_is_taken_and_what_both_changed_is_asked(self):
        self.saved()
        self.session.apply(set_fields(["cam-1"], "x", fps=25))
        self.on_site(
            set_fields(["cam-1"], "x", fps=8), set_fields(["cam-2"], "x", place="Yard"), result("failed", "12:00")
        )
        self.asker.files = [self.theirs]
        self.window.run("merge-copy")
        view = self.view()
        self.assertIn("both since", view.title.text())
        row = self.row_named(view.table, "Camera 1: Frame rate")
        cells = [self.cell(view.table, row, name) for name in ("before", "here", "there", "counts")]
        self.assertEqual(cells, ["12 fps", "25 fps", "8 fps", "to decide"])
        self.assertFalse(view.take.isEnabled())
        self.press(view, "Use the other copy")
        self.press(view, "Merge")
        first, second = self.session.job.cameras
        self.assertEqual((first.fps, second.place), (8, "Yard"))
        self.assertEqual([one.state for one in self.session.job.snags], ["open"])
        self.session.undo()
        self.assertEqual(self.session.job.cameras[0].fps, 25)

    def test_without_a_common_version_it_is_asked_for(self):
        self.saved()
        log_beside(self.theirs).unlink()
        self.on_site(set_retention(60, None))
        self.asker.files, self.asker.answers = [self.theirs], []
        self.window.run("merge-copy")
        self.assertIn("share no saved version", self.asker.asked[-1])
        self.assertIsNone(self.window.merger.view)
        self.asker.files, self.asker.answers = [self.theirs, self.folder / "common.lens.json"], [0]
        self.window.run("merge-copy")
        self.press(self.view(), "Merge")
        self.assertEqual(self.session.job.retention.least_days, 60)
        self.on_site(set_retention(90, None))
        self.asker.files, self.asker.answers = [self.theirs], [1]
        self.window.run("merge-copy")
        self.assertIn("1 question to decide", self.view().words.text())

    def test_a_copy_without_news_is_told(self):
        self.saved()
        self.asker.files = [self.theirs]
        self.window.run("merge-copy")
        self.assertIn("nothing new", self.last_notice())

    def test_a_colleagues_log_brings_its_results(self):
        self.saved()
        # The colleague works on the copy, in a window of his own.
        self.session.open(self.theirs)
        self.session.apply(result("failed", "12:00"))
        label = Check(device="cam-2", check="label", outcome="passed", by="Site", at="2026-11-20T12:30:00")
        self.session.apply(record_checks([label]))
        self.session.log.flush()
        self.session.open(self.mine)
        self.session.apply(result("passed", "11:00", "Office"))
        self.window.go("proof")
        page = self.window.pages["proof"]
        page.show_view(6)
        self.asker.files = [log_beside(self.theirs)]
        self.press(page, "Merge another log")
        self.wait_for_work()
        view = self.view()
        self.assertIn("1 question to decide", view.words.text())
        self.press(view, "Use this copy")
        self.press(view, "Merge")
        counts = latest_checks(self.session.job)
        self.assertEqual((counts["cam-1", "label"].by, counts["cam-2", "label"].by), ("Office", "Site"))
        self.assertEqual([one for one in self.session.job.snags if one.state == "open"], [])

    def test_questions_can_be_given_up(self):
        self.saved()
        self.on_site(set_retention(60, None))
        self.asker.files = [self.theirs]
        before = changed(self.session.job)
        self.window.run("merge-copy")
        self.press(self.view(), "Cancel")
        self.assertIsNone(self.window.merger.view)
        self.assertEqual(self.session.job, before)
