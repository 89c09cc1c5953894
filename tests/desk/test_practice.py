"""Practice in the real window: a code, the customer's words, handling at the bench, the account."""

import json

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QLabel, QPushButton

from eager_lens.core.job.model import changed
from eager_lens.core.practice.drill import drill_of
from eager_lens.desk.panels.practice_door import PracticeDoor
from tests.desk.base import WindowCase

CODE = next(f"motion-1-{seed}" for seed in range(1, 60) if drill_of(f"motion-1-{seed}").faults == ("rule-off",))


class PracticeCase(WindowCase):
    def begun(self, code=CODE):
        self.window.run("practise")
        door = self.window.stack.currentWidget()
        self.assertIsInstance(door, PracticeDoor)
        door.code.setText(code)
        self.key(door.code, Qt.Key.Key_Return)
        self.bench = self.window.pages["bench"]
        self.view = self.bench.rehearsal
        self.until(lambda: self.view.rehearser.site is not None)
        QApplication.processEvents()
        return self.view

    def words_of(self, widget):
        return " | ".join(one.text() for one in widget.findChildren(QLabel) if one.isVisible())

    def push(self, words, within):
        self.click(
            next(one for one in within.findChildren(QPushButton) if one.isVisible() and one.text().startswith(words))
        )

    def minutes(self):
        return (self.view.rehearser.site.now_s - drill_of(CODE).job.rehearsal.now_s) / 60


class Practising(PracticeCase):
    def test_from_the_complaint_to_the_account(self):
        view = self.begun()
        drill = drill_of(CODE)
        self.assertEqual(self.session.job.name, f"Practice {CODE}")
        self.assertTrue(view.practice.isVisible())
        self.assertIn(drill.complaint, self.words_of(view.practice))
        self.assertFalse(view._plan.isVisible())
        view.shelf.lead_to(drill.camera)
        view.hand.select("read page")
        self.click(view.hand.go)
        self.assertIn("motion rule off", view.hand.outcome.text())
        self.assertEqual(round(self.minutes()), 2)
        self.push("Ask the customer", view.practice)
        self.assertIn(f"now says: {drill.complaint}", view.practice.answer.text())
        view.hand.select("rule on")
        self.click(view.hand.go)
        self.push("Ask the customer", view.practice)
        self.assertIn("It works", view.practice.answer.text())
        self.push("End the practice", view.practice)
        account_words = self.words_of(view.account)
        for words in ("Repaired, 2 steps in 6 min", "its motion rule is off", "Quicker", drill.lesson.rule):
            self.assertIn(words, account_words)
        self.assertTrue(view.account.isAncestorOf(QApplication.focusWidget()))
        self.push("Back", view.account)
        self.assertTrue(view.shelf.hasFocus())
        self.assertTrue(view.practice.isVisible())

    def test_the_result_is_a_file_without_names(self):
        view = self.begun()
        self.push("End the practice", view.practice)
        path = self.folder / "result.json"
        self.asker.files = [path]
        self.push("Save the result", view.account)
        self.wait_for_work()
        data = json.loads(path.read_text("utf-8"))
        self.assertEqual((data["results"][0]["code"], data["results"][0]["mended"]), (CODE, False))

    def test_handling_can_be_undone_with_its_time(self):
        view = self.begun()
        view.do("search", "laptop", {})
        self.assertEqual(round(self.minutes()), 2)
        self.session.undo()
        self.until(lambda: view.rehearser.site is not None)
        self.assertEqual(round(self.minutes()), 0)

    def test_the_fault_finder_has_its_tests_made_there_and_they_cost_their_minutes(self):
        view = self.begun()
        self.push("Find the fault", view.practice)
        faults = self.bench.faults
        asked = faults.searching.search.asked.test
        self.push("Ask the rehearsal", faults)
        self.assertEqual(faults.searching.search.answers[0].test, asked.id)
        self.assertAlmostEqual(self.minutes(), asked.minutes, 1)
        self.bench.show_practice()
        self.push("End the practice", view.practice)
        self.assertIn("1 step in", self.words_of(view.account))

    def test_a_reason_is_not_given_away(self):
        seed = next(seed for seed in range(1, 60) if drill_of(f"mixed-1-{seed}").faults == ("old-entry",))
        view = self.begun(f"mixed-1-{seed}")
        self.push("Refresh", view)
        self.bench.show_practice()
        rows = [view.channels.records.at(at) for at in range(view.channels.records.rowCount())]
        silent = [one for one in rows if one.entry.shown == "silent"]
        self.assertEqual([one.entry.why for one in silent], [""])
        self.assertFalse([one for one in self.words_of(view).split(" | ") if "nobody in its network" in one])

    def test_a_code_that_is_none_is_told_and_loses_nothing(self):
        self.window.run("practise")
        door = self.window.stack.currentWidget()
        door.code.setText("night-7-1")
        self.push("Begin", door)
        self.assertIn("not a level", self.last_notice())
        self.assertIs(self.window.stack.currentWidget(), door)
        self.push("Not now", door)
        self.assertFalse(self.session.is_open)

    def test_a_job_that_is_not_its_own_any_more_can_begin_anew(self):
        job = drill_of(CODE).job
        self.open_job(changed(job, cameras=job.cameras[:1]), "bench")
        page = self.window.pages["bench"]
        page.show_practice()
        self.until(lambda: "no longer that of the practice" in self.last_notice())
        self.push("Start a rehearsal", page.rehearsal)
        self.until(lambda: page.rehearsal.rehearser.site is not None)
        self.assertEqual(page.rehearsal.rehearser.practice, "")

    def test_a_lesson_draws_one_of_its_level(self):
        self.window.run("practise")
        door = self.window.stack.currentWidget()
        door.level.setCurrentIndex(2)
        self.click(door.lessons["night"])
        self.assertRegex(self.session.job.name, r"^Practice night-3-\d+$")
        self.assertEqual(self.window.stage, "bench")

    def test_the_night_comes(self):
        seed = next(seed for seed in range(1, 60) if drill_of(f"night-1-{seed}").faults == ("night-budget",))
        view = self.begun(f"night-1-{seed}")
        drill = drill_of(f"night-1-{seed}")
        self.assertTrue(view.rehearser.site.units[drill.camera].runs)
        view.rehearser.to_dusk_or_dawn()
        self.assertTrue(view.rehearser.site.is_dark)
        self.assertFalse(view.rehearser.site.units[drill.camera].runs)
