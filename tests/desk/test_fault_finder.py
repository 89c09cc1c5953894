"""The fault finder in the real window: from a device and what is seen to the cause, by mouse and by keys."""

from datetime import datetime

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QPushButton

from eager_lens.core.assess.finding import Severity
from eager_lens.core.fault_finder.search import FaultSearch
from eager_lens.core.job.edits import set_rehearsal
from eager_lens.core.job.proof import Check
from eager_lens.core.job.proving import record_checks
from eager_lens.core.job.rehearsal import Rehearsal
from eager_lens.core.records.event_log.log_file import log_beside
from eager_lens.core.records.event_log.verify import entries_of
from eager_lens.core.site_check.lines import SiteCode, SiteLine
from eager_lens.core.site_check.verdicts import Row
from eager_lens.desk.pages.bench.page import FAULTS, REHEARSAL, SITE_CHECK
from eager_lens.desk.panels.finding_cards import FindingCard
from tests.desk.base import WindowCase

SHIFT_CONTROL = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier


class FaultCase(WindowCase):
    def setUp(self):
        super().setUp()
        self.bench = self.open_demo("bench")
        self.view = self.bench.faults

    def device(self, name):
        return next(one for one in self.session.assessment.facts.devices if one.name == name)

    def begun(self, name, symptom):
        self.session.fault_asked.emit([self.device(name).id], symptom)
        QApplication.processEvents()
        return self.view.searching

    def buttons(self, words, within):
        return [one for one in within.findChildren(QPushButton) if one.isVisible() and one.text().startswith(words)]

    def press(self, words, within=None):
        self.click(self.buttons(words, within or self.view)[0])

    def answer_all(self, outcome):
        """TestAnswer by keys until nothing more is asked; ``outcome`` names the answer to a test."""
        searching = self.view.searching
        for _ in range(30):
            asked = searching.search.asked
            if asked is None:
                return searching.search
            self.key(searching, Qt.Key(Qt.Key.Key_1 + asked.test.outcomes.index(outcome(asked.test))))
        self.fail("it asks without an end")
        return None


class Searching(FaultCase):
    def test_from_the_device_in_hand_by_mouse(self):
        self.window.go("sizing")
        self.session.select([self.device("Driver sign-on").id])
        self.shortcut(Qt.Key.Key_F, SHIFT_CONTROL)
        self.assertEqual((self.window.stage, self.bench.shown_view), ("bench", FAULTS))
        self.click(self.view.start.symptoms["no-picture"])
        search = self.view.searching.search
        self.assertEqual((search.of.device.name, search.of.case.symptom), ("Driver sign-on", "no-picture"))
        asked = search.asked.test
        self.press("1   ")
        self.assertEqual([one.test for one in self.view.searching.search.answers], [asked.id])
        self.press("Take back")
        self.assertEqual(self.view.searching.search.answers, ())

    def test_with_nothing_selected_the_first_device_is_and_without_any_it_says_what_to_do(self):
        self.window.go("sizing")
        self.shortcut(Qt.Key.Key_F, SHIFT_CONTROL)  # the hand is still on Ctrl and Shift when the first is selected
        first = self.view.start.devices.records.at(0)
        self.assertEqual(self.view.start.devices.selected_parts(), [first])
        self.assertTrue(self.view.start.symptoms["no-picture"].isEnabled())
        self.view.start.devices.clearSelection()
        self.assertFalse(self.view.start.symptoms["no-picture"].isEnabled())
        self.assertIn("Select the device", self.view.start._whose.text())

    def test_by_keys_to_a_cause_that_goes_into_the_log(self):
        self.session.save_as(self.folder / "yard.lens.json")
        self.begun("Driver sign-on", "no-picture")

        def truth(test):
            row = test.row_of("channel-full", self.view.searching.search.of.case.table.groups) or test.usual
            return test.outcomes[row.index(max(row))]

        search = self.answer_all(truth)
        self.assertEqual(search.named.id, "channel-full")
        self.assertTrue(self.buttons("This was not it", self.view))
        self.press("This was it")
        self.session.log.flush()
        entries = [one for one in entries_of(log_beside(self.session.path)) if one.event.kind == "fault found"]
        self.assertEqual(entries[-1].event.about, (search.of.device.id,))
        self.assertIn("no channel free", entries[-1].event.what)
        self.assertTrue(self.view.start.isVisible())

    def test_zero_does_not_know_and_backspace_takes_back(self):
        searching = self.begun("Driver sign-on", "no-picture")
        first = searching.search.asked.test.id
        self.key(searching, Qt.Key.Key_0)
        self.assertIsNone(searching.search.answers[0].outcome)
        self.assertNotEqual(searching.search.asked.test.id, first)
        self.key(searching, Qt.Key.Key_9)
        self.assertEqual(len(searching.search.answers), 1)
        self.key(searching, Qt.Key.Key_Backspace)
        self.assertEqual(searching.search.asked.test.id, first)

    def test_nothing_left_to_ask_says_what_was_tried(self):
        searching = self.begun("Driver sign-on", "no-picture")
        while searching.search.asked is not None:
            self.key(searching, Qt.Key.Key_0)
        self.press("Copy the report")
        report = QGuiApplication.clipboard().text()
        self.assertIn("not found yet", report)
        self.assertIn("not known", report)
        first = searching.search.ranked[0][0].id
        self.press("This was not it")
        self.assertNotEqual(searching.search.ranked[0][0].id, first)

    def test_an_edit_keeps_the_answers(self):
        searching = self.begun("Driver sign-on", "no-picture")
        self.key(searching, Qt.Key.Key_1)
        answers = searching.search.answers
        self.window.run("fill-channels")
        self.assertEqual(searching.search.answers, answers)
        self.assertTrue(searching.isVisible())

    def test_an_edit_elsewhere_leaves_the_keyboard_where_it_is(self):
        self.begun("Driver sign-on", "no-picture")
        field = self.window.header.search
        field.setFocus()
        self.window.run("fill-channels")
        self.assertIs(self.window.focusWidget(), field)

    def test_several_at_once_are_told_what_they_have_in_common(self):
        wiring = self.session.assessment.facts.topology.wiring
        yard = self.device("Yard switch").id
        self.session.fault_asked.emit([one for one, at in wiring.hangs_on.items() if at == yard], "")
        self.assertIn("Yard switch", self.view.start._common.text())

    def test_a_site_check_is_taken_over(self):
        device = self.device("Lathe")
        line = SiteLine(Severity.FAULT, SiteCode.NOT_HEARD, "")
        self.view.rows_of_check = lambda: [Row("x", device, "Lathe", "", "", "", (line,), True)]
        searching = self.begun("Lathe", "no-picture")
        self.press("Use 3 answers of the site check")
        self.assertIn("ping", [one.test for one in searching.search.answers])
        self.assertFalse([one for one in self.buttons("Take", self.view) if "site check" in one.text()])

    def test_acceptance_tests_of_today_are_taken_over(self):
        device = self.device("Lathe")
        now = datetime.now().isoformat(timespec="minutes")
        self.session.apply(record_checks((Check(device=device.id, check="stream", outcome="passed", at=now),)))
        searching = self.begun("Lathe", "red")
        self.press("Use 2 answers of the acceptance tests")
        self.assertEqual({one.test for one in searching.search.answers}, {"stream", "ping"})

    def test_several_at_once_begin_with_what_they_have_in_common(self):
        ids = [one.id for one in self.session.job.cameras if one.name.startswith("Halt")]
        self.assertGreater(len(ids), 2)
        self.session.fault_asked.emit(ids, "no-picture")
        search = self.view.searching.search
        self.assertEqual(set(search.of.down), set(ids))
        self.assertTrue(any("cameras behind" in one.words for one in search.of.said))
        self.assertIn(f"and {len(ids) - 1} more", self.view.searching.head_words)

    def test_the_rehearsal_answers(self):
        """A button makes the test on the simulated site as it stands; that one stays as it is."""
        self.session.apply(set_rehearsal("x", Rehearsal()))
        self.bench.show_view(REHEARSAL)
        rehearser = self.bench.rehearsal.rehearser
        self.until(lambda: rehearser.site is not None)
        before = rehearser.site.laptop.host, len(rehearser.site.log_lines)
        searching = self.begun("Driver sign-on", "no-picture")
        self.assertEqual(searching.search.asked.test.id, "ping")
        self.press("Ask the rehearsal")
        answer = searching.search.answers[0]
        self.assertEqual(searching.search.answer_words(answer)[1], "no answer")  # it is in its box
        self.assertEqual((rehearser.site.laptop.host, len(rehearser.site.log_lines)), before)

    def test_a_look_over_the_network_comes_back_with_answers(self):
        device = self.device("Lathe")
        searching = self.begun("Lathe", "no-picture")
        check = self.bench.site_check
        asked = []
        check.ask_for = asked.append
        self.press("Check over the network")
        self.assertEqual(self.bench.shown_view, SITE_CHECK)
        self.assertEqual(asked[0][0], device.id)
        line = SiteLine(Severity.FAULT, SiteCode.NOT_HEARD, "")
        self.view.rows_of_check = lambda: [Row("x", device, "Lathe", "", "", "", (line,), True)]
        check.taken.emit()
        self.assertEqual(self.bench.shown_view, FAULTS)
        self.assertEqual({one.test for one in searching.search.answers}, {"ping", "search"} | {"login"})

    def test_own_figures_hold_for_the_job_and_can_be_undone(self):
        searching = self.begun("Lathe", "red")
        before = {cause.id: chance for cause, chance in searching.search.ranked}
        self.press("Figures")
        figures = self.view.figures
        table = figures.tables[0]
        figures.symptom.setCurrentIndex(figures.symptom.findData("red"))
        at = next(at for at in range(table.records.rowCount()) if table.records.at(at).place[1] == "entry")
        value = table.records.index(at, 1)
        self.assertTrue(table.records.setData(value, "200", Qt.ItemDataRole.EditRole))
        self.assertEqual(self.session.job.fault_figures[0].values, (200,))
        self.press("Back to the search")
        after = {cause.id: chance for cause, chance in searching.search.ranked}
        self.assertGreater(after["entry"], 3 * before["entry"])
        self.session.undo()
        QApplication.processEvents()
        again = {cause.id: chance for cause, chance in searching.search.ranked}
        self.assertEqual(again, before)

    def test_a_chance_moves_the_others(self):
        self.begun("Lathe", "red")
        self.press("Figures")
        figures = self.view.figures
        figures.show_table(2)
        table = figures.tables[2]
        self.assertTrue(table.records.setData(table.records.index(1, 2), "50", Qt.ItemDataRole.EditRole))
        (own,) = self.session.job.fault_figures
        self.assertAlmostEqual(sum(own.values), 1)
        self.assertEqual(own.values[1], 0.5)
        self.assertFalse(table.records.setData(table.records.index(1, 2), "100", Qt.ItemDataRole.EditRole))
        self.assertIn("nothing is certain", self.last_notice())
        table.setCurrentIndex(table.records.index(1, 0))
        self.press("Reset selected")
        self.assertEqual(self.session.job.fault_figures, ())


class OfferedWhereItIsKnown(FaultCase):
    def test_at_a_test_that_failed(self):
        page = self.open_demo("proof")
        page.acceptance.lead_to(self.device("Hall doors west").id)
        table = page.acceptance.tests
        failed = next(at for at in range(table.records.rowCount()) if table.records.at(at).id == "motion")
        table.setCurrentIndex(table.records.index(failed, 0))
        self.assertTrue(page.acceptance.fault.isVisible())
        self.click(page.acceptance.fault)
        search = self.window.pages["bench"].faults.searching.search
        self.assertIsInstance(search, FaultSearch)
        self.assertEqual((search.of.device.name, search.of.case.symptom), ("Hall doors west", "no-motion"))

    def test_at_its_finding(self):
        self.open_demo("proof")
        card = next(one for one in self.window.side.findChildren(FindingCard) if one.isVisible())
        self.click(self.buttons("Find the fault", card)[0])
        self.assertEqual(self.session.selected, (self.device("Hall doors west").id,))
        self.assertEqual(self.bench.shown_view if self.window.stage == "bench" else None, FAULTS)

    def test_from_any_finding_and_any_channel_by_their_menus(self):
        self.open_demo("bench")
        card = next(one for one in self.window.side.findChildren(FindingCard) if one.isVisible() and one.actions())
        card.actions()[0].trigger()
        self.assertEqual(self.bench.shown_view, FAULTS)
        self.bench.show_view(0)
        channel = self.device("Lathe").registered[0].channel
        _, board = self.bench.boards[self.device("Lathe").registered[0].recorder]
        point = board._rect(channel).center().toPoint()
        self.click(board, (point.x(), point.y()))
        board.actions()[0].trigger()
        self.assertEqual(self.bench.shown_view, FAULTS)
        self.assertEqual(self.view.start.devices.selected_parts()[0].name, "Lathe")

    def test_those_that_the_site_check_missed_are_selected_by_a_button(self):
        lathe, booth = self.device("Lathe"), self.device("Paint booth")
        line = SiteLine(Severity.FAULT, SiteCode.NOT_HEARD, "")
        self.view.rows_of_check = lambda: [
            Row(one.id, one, one.name, "", "", "", (line,), True) for one in (lathe, booth)
        ]
        self.bench.show_view(FAULTS)
        self.press("Select the 2 cameras that are down")
        self.press("No picture")
        self.assertEqual(set(self.view.searching.search.of.down), {lathe.id, booth.id})

    def test_the_report_is_saved_for_whoever_helps(self):
        self.begun("Lathe", "red")
        while self.view.searching.search.asked is not None:
            self.key(self.view.searching, Qt.Key.Key_0)
        path = self.folder / "report.txt"
        self.asker.files = [path]
        self.press("Save the report")
        self.wait_for_work()
        self.assertIn("Most likely now", path.read_text("utf-8"))

    def test_in_the_menu_of_a_device(self):
        page = self.open_demo("bench")
        page.show_view(0)
        table = page.cameras
        table.setCurrentIndex(table.records.index(2, 0))
        menu = table.cell_menu(table.currentIndex())
        next(one for one in menu.actions() if one.text().startswith("Find a fault")).trigger()
        self.assertEqual(page.shown_view, FAULTS)
