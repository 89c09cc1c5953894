"""What a table without rows says: that its answer is on the way, why there is none, or what to do; never what is not so."""

import unittest
from unittest import mock

from eager_lens.core.job.edits import set_drive_offers, set_retention
from eager_lens.core.job.model import EMPTY_JOB, DriveOffer, Link, Retention
from eager_lens.desk.pages.bench.page import PLAN
from eager_lens.desk.pages.sizing.drives_view import NO_LIST
from tests.desk.base import WindowCase
from tests.support import camera, job_with


class Sizing(WindowCase):
    def test_best_picture_searches_finds_and_is_stopped(self):
        page = self.open_demo()
        self.press(page, "Best picture")
        table = page.best.table
        self.assertEqual(table.empty_words, "Searching …")
        page.best._busy.stop_button.click()
        self.assertEqual(table.empty_words, "Stopped")
        self.wait_for_work()
        self.assertEqual(page.best._chart._empty_words, "Stopped")

    def test_best_picture_says_why_nothing_changes(self):
        page = self.open_job(job_with([camera(1)], retention=Retention(least_days=9000)))
        page.show_best()
        self.wait_for_work()
        self.assertIn("TB, and there are", page.best.table.empty_words)
        self.session.apply(set_retention(1, None))
        self.wait_for_work()
        self.press(page, "Apply proposal")
        self.wait_for_work()
        self.assertEqual(len(page.best.picked.changes), 0)
        self.assertIn("the present settings are the best that fit", page.best.table.empty_words)

    def test_promise_and_what_helps_most_are_on_their_way(self):
        page = self.open_demo()
        self.press(page, "Promise")
        self.assertEqual(page.promise.table.empty_words, "Calculating …")
        self.press(page, "What helps most")
        self.assertEqual(page.levers.table.empty_words, "Calculating …")
        self.wait_for_work()
        self.assertGreater(page.levers.table.records.rowCount(), 0)

    def test_without_cameras_both_say_what_to_do(self):
        page = self.open_job(job_with([]))
        for tab, view in (("Promise", "promise"), ("What helps most", "levers"), ("Best picture", "best")):
            self.press(page, tab)
            self.assertIn("Register cameras on a recorder with drives", getattr(page, view).table.empty_words)

    def test_a_price_list_that_is_there_is_not_asked_for(self):
        page = self.open_job(job_with([camera(1)]))
        self.press(page, "Recorders")
        table = page.drives.table
        self.assertEqual(table.empty_words, NO_LIST)
        self.session.apply(set_drive_offers([DriveOffer(name="Small", tb=0.001, price=1)]))
        self.assertEqual((table.records.rowCount(), table.empty_words), (0, "No drives on the list are enough."))


class Bench(WindowCase):
    def plan(self, job=None):
        self.page = self.open_demo("bench") if job is None else self.open_job(job, "bench")
        self.page.show_view(PLAN)
        return self.page.plan

    def test_the_plan_is_on_its_way_and_then_says_what_it_needs(self):
        plan = self.plan(EMPTY_JOB)
        self.assertEqual((plan.table.empty_words, plan.blocked.empty_words), ("Planning …", "Planning …"))
        self.wait_for_work()
        self.assertIn("Add recorders or cameras", plan.table.empty_words)
        self.assertEqual(plan.blocked.empty_words, "Nothing to commission yet.")

    def test_planning_that_was_stopped_says_so_and_is_asked_for_again_by_its_tab(self):
        plan = self.plan()
        plan.busy.stop_button.click()
        self.wait_for_work()
        self.assertIn("Planning was stopped", plan._words.text())
        self.assertEqual(plan.table.records.rowCount(), 0)
        self.press(self.page, "Commissioning plan")
        self.wait_for_work()
        self.assertGreater(plan.table.records.rowCount(), 100)

    def test_another_jobs_plan_goes_at_once(self):
        plan = self.plan()
        self.wait_for_work()
        self.assertGreater(plan.table.records.rowCount(), 100)
        plan.compare("172.22.40.40")
        self.assertTrue(plan._found_words.isVisible())
        with mock.patch.object(plan, "show_assessment"):
            self.session.start_job(EMPTY_JOB)
        self.assertEqual((plan.table.records.rowCount(), plan._words.text()), (0, "Planning …"))
        self.assertFalse(plan._found_words.isVisible() or plan._take.isVisible())


class Failing(WindowCase):
    def test_links_that_carry_no_recording_are_not_called_none(self):
        loose = [camera(number, registered=()) for number in (1, 2)]
        job = job_with(loose, links=(Link(id="link-1", a="cam-1", b="rec-1"),))
        page = self.open_job(job, "wiring")
        self.press(page, "What if it fails?")
        self.assertIn("No registered camera reaches its recorder yet", page.failing.parts.empty_words)


if __name__ == "__main__":
    unittest.main()
