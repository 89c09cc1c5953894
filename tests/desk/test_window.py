"""The window as a whole: start page, keys, search, files, findings, readout, themes."""

import random
import sys
import unittest
from unittest import mock

from PySide6.QtCore import QMimeData, QPoint, Qt, QUrl
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QLineEdit, QPushButton, QWidget

from eager_lens.core.job.accepting import accept
from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.file import job_text, read_job
from eager_lens.core.job.model import EMPTY_JOB, by_id
from eager_lens.core.present.readout import readings
from eager_lens.core.present.stages import STAGES
from eager_lens.core.present.working import FigureRef
from eager_lens.core.units import figure
from eager_lens.desk.actions import ACTIONS, MENUS, shortcut_list
from eager_lens.desk.autosave import Autosave
from eager_lens.desk.background import stop_tasks_of
from eager_lens.desk.panels.finding_cards import AcceptedCard, FindingCard
from eager_lens.desk.panels.import_view import ImportView
from eager_lens.desk.searching import search
from eager_lens.desk.theme import look
from eager_lens.desk.trouble import catch_troubles
from eager_lens.desk.widgets.marks import Mark
from tests.desk.base import WindowCase
from tests.support import camera, demo_job, job_with, repeats, takes_long


class StartPage(WindowCase):
    def test_it_offers_what_can_be_begun(self):
        for words in ("Open the demo job", "New job", "Import a camera list", "Open a job"):
            with self.subTest(words):
                self.assertTrue(any(b.text().startswith(words) for b in self.window.start.findChildren(QPushButton)))
        self.assertFalse(self.window.rail.isVisible())

    def test_the_demo_is_one_press_away(self):
        self.press(self.window.start, "Open the demo job")
        self.assertEqual(self.session.job.name, "Brindlemoor Tramway")
        self.assertTrue(self.window.rail.isVisible())
        self.assertFalse(self.session.unsaved)

    def test_the_demo_is_one_key_away(self):
        self.key(self.window.focusWidget(), Qt.Key.Key_Space)
        self.assertEqual(self.session.job.name, "Brindlemoor Tramway")

    def test_recent_files_open(self):
        path = self.write("shed.lens.json", job_text(job_with([camera(1)], name="Shed")))
        self.window.open_path(path)
        self.window.ask_start()
        self.press(self.window.start, "shed.lens.json")
        self.assertEqual(self.session.job.name, "Shed")

    def test_left_work_is_offered_and_taken_up(self):
        left = Autosave(self.folder / "state")
        left.write(job_with([camera(1)], name="Left behind"), None, left.epoch)
        left._lock.close()
        self.window.show_start()
        self.press(self.window.start, "Recover")
        self.assertEqual(self.session.job.name, "Left behind")
        self.assertTrue(self.session.unsaved)

    def test_left_work_is_given_up_only_after_a_question(self):
        left = Autosave(self.folder / "state")
        left.write(job_with(name="Left behind"), None, left.epoch)
        left._lock.close()
        self.window.show_start()
        self.press(self.window.start, "Discard")
        self.assertTrue(left.copy.exists())
        self.asker.answers = [0]
        self.press(self.window.start, "Discard")
        self.assertFalse(left.copy.exists())
        self.assertIn("cannot be recovered", self.asker.asked[-1])


class Keys(WindowCase):
    def test_alt_and_a_number_goes_to_each_stage(self):
        self.open_demo()
        for number, stage in enumerate(STAGES):
            with self.subTest(stage):
                self.shortcut(Qt.Key(Qt.Key.Key_1 + number), Qt.KeyboardModifier.AltModifier)
                self.assertEqual(self.window.stage, stage)
                self.assertIs(self.window.stack.currentWidget(), self.window.pages[stage])

    def test_pages_are_made_when_they_are_first_asked_for(self):
        self.open_demo()
        self.assertEqual(set(self.window.pages), {"sizing"})

    def test_undo_and_redo(self):
        self.open_demo()
        before = self.session.job
        self.session.apply(set_fields(["cam-1"], "Set 5 fps", fps=5))
        self.shortcut(Qt.Key.Key_Z)
        self.assertIs(self.session.job, before)
        self.shortcut(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        self.assertEqual(self.session.job.cameras[0].fps, 5)
        self.assertIn("Set 5 fps", self.window.header._undo.text())

    def test_f6_goes_round(self):
        self.open_demo()
        seen = []
        for _ in range(5):
            self.shortcut(Qt.Key.Key_F6, Qt.KeyboardModifier.NoModifier)
            focus = self.window.focusWidget()
            parts = (
                self.window.rail,
                self.window.pages["sizing"],
                self.window.side,
                self.window.readout,
                self.window.header,
            )
            seen.append(next(at for at, part in enumerate(parts) if part is focus or part.isAncestorOf(focus)))
        self.assertEqual(sorted(seen), [0, 1, 2, 3, 4])

    def test_the_rail_walks_with_arrows(self):
        self.open_demo()
        self.window.rail.setFocus()
        self.key(self.window.rail, Qt.Key.Key_Down)
        self.assertEqual(self.window.stage, "addresses")
        self.click(self.window.rail, (60, 8 + 40 * 4 + 10))
        self.assertEqual(self.window.stage, "schedule")

    def test_no_two_commands_share_a_key(self):
        keys = [action.keys for action in ACTIONS if action.keys]
        self.assertEqual(len(keys), len(set(keys)))
        self.assertTrue(all(action.menu in MENUS for action in ACTIONS))
        self.assertEqual(set(self.window.commands.handlers), {action.id for action in ACTIONS})

    def test_the_shortcut_list_opens(self):
        self.shortcut(Qt.Key.Key_F1, Qt.KeyboardModifier.NoModifier)
        dialog = QApplication.activeModalWidget()
        said = " ".join(one.text() for one in dialog.findChildren(QLabel))
        for keys, _ in shortcut_list():
            self.assertIn(keys, said)
        self.key(dialog, Qt.Key.Key_Escape)
        self.assertIsNone(QApplication.activeModalWidget())

    def test_a_command_that_wants_a_job_says_so(self):
        self.window.run("save")
        self.assertIn("Open or create a job first", self.last_notice())


class Search(WindowCase):
    def hits(self, text):
        return [hit.words for hit in search(text, self.session)]

    def test_everything_is_found(self):
        self.open_demo()
        yard = next(c for c in self.session.job.cameras if c.name == "Yard gate")
        for text in ("yard ga", yard.address, yard.serial, yard.mac_address[-8:]):
            with self.subTest(text):
                self.assertTrue(any("Yard gate" in words for words in self.hits(text)))
        self.assertIn("Plan addresses for all devices", self.hits("plan addr"))
        self.assertIn("Addresses", self.hits("addresses"))
        self.assertTrue(any("DHCP pool" in words for words in self.hits("DHCP pool")))
        self.assertEqual(self.hits("  "), [])

    def test_by_keyboard(self):
        self.open_demo("addresses")
        self.shortcut(Qt.Key.Key_K)
        box = self.window.header.search
        self.assertTrue(box.hasFocus())
        QTest.keyClicks(box, "halt shelter")
        self.assertTrue(box.results.isVisible())
        self.key(box, Qt.Key.Key_Return)
        selected = [c.name for c in self.session.job.cameras if c.id in self.session.selected]
        self.assertEqual((selected, self.window.stage), (["Halt shelter"], "addresses"))

    def test_walking_down_the_results_and_escape(self):
        self.open_demo()
        box = self.window.header.search
        box.setFocus()
        QTest.keyClicks(box, "halt")
        self.key(box, Qt.Key.Key_Down)
        self.assertEqual(box.results.currentRow(), 1)
        self.key(box, Qt.Key.Key_Escape)
        self.assertFalse(box.results.isVisible())
        self.assertEqual(box.text(), "")

    def test_nothing_found_is_said(self):
        self.open_demo()
        box = self.window.header.search
        box.setFocus()
        QTest.keyClicks(box, "zzzz")
        self.assertIn("No device, address", box.results.item(0).text())
        self.key(box, Qt.Key.Key_Return)
        self.assertEqual(self.session.selected, ())

    def test_a_command_is_carried_out(self):
        self.open_demo()
        box = self.window.header.search
        box.setFocus()
        QTest.keyClicks(box, "register all")
        self.key(box, Qt.Key.Key_Return)
        self.assertEqual(self.session.undo_label, "Register all cameras")


class FindingsPanel(WindowCase):
    def cards(self):
        return [card for card in self.window.side.findChildren(FindingCard) if not card.isHidden()]

    def test_a_fix_is_one_press_and_one_undo(self):
        self.open_demo("addresses")
        before = self.session.job
        card = next(card for card in self.cards() if card._finding.code == "in-pool")
        self.press(card, "New address")
        self.assertNotIn("in-pool", [f.code for f in self.session.assessment.findings])
        self.session.undo()
        self.assertIs(self.session.job, before)

    def test_show_leads_to_the_thing(self):
        page = self.open_demo("motion")
        named = [
            card for card in self.cards() if "Kiosk queue" in " ".join(w.text() for w in card.findChildren(QLabel))
        ]
        card = named[0]
        self.press(card, "Show")
        self.assertEqual(self.session.selected, ("cam-14",))
        self.assertTrue(page.cameras.hasFocus())

    def test_show_selects_all_that_it_is_about(self):
        self.open_demo("wiring")
        (card,) = [card for card in self.cards() if card._finding.code == "outdoor-runs"]
        self.press(card, "Show")
        self.assertEqual(set(self.session.selected), set(card._finding.subjects))

    def test_choices_are_shown_with_what_they_change_and_made_as_one_step(self):
        self.open_demo("wiring")
        (card,) = [card for card in self.cards() if "118 m" in card._finding.title]
        self.press(card, "Choices")
        self.wait_for_work()
        said = "\n".join(one.text() for one in card.findChildren(QLabel))
        self.assertIn("Extender half-way, 59 m on", said)
        self.assertIn("Substation fence south gets 41.5 V → 42.8 V", said)
        before = self.session.job
        next(one for one in card.findChildren(QPushButton) if "Fibre" in one.accessibleName()).click()
        self.assertNotIn("118 m", " ".join(one.title for one in self.session.assessment.findings))
        self.assertIn("Fibre", self.session.undo_label)
        self.session.undo()
        self.assertIs(self.session.job, before)

    def test_a_finding_is_accepted_with_a_reason_and_shown_again(self):
        self.open_demo("schedule")
        (card,) = self.cards()
        self.press(card, "Accept …")
        QTest.keyClicks(self.window.focusWidget(), "the trams run in the closure")
        self.key(self.window.focusWidget(), Qt.Key.Key_Return)
        self.assertEqual(self.cards(), [])
        (accepted,) = self.window.side.findChildren(AcceptedCard)
        self.assertIn("the trams run in the closure", [one.text() for one in accepted.findChildren(QLabel)])
        self.press(accepted, "Show again")
        self.assertEqual(len(self.cards()), 1)
        self.session.undo()
        self.assertEqual(self.cards(), [])

    def test_choices_go_away_when_they_are_pressed_again(self):
        self.open_demo("wiring")
        (card,) = [card for card in self.cards() if "118 m" in card._finding.title]
        for shown in (True, False):
            self.press(card, "Choices")
            self.wait_for_work()
            self.assertEqual(bool(card._choices.count()), shown)

    def test_a_page_without_a_finding_does_not_speak_for_the_others(self):
        self.open_demo("handover")
        said = " ".join(one.text() for one in self.window.side.findChildren(QLabel))
        self.assertIn("No findings here. On other pages: 16 faults and 16 warnings.", said)
        self.open_job(job_with([camera(1)]), "motion")
        said = " ".join(one.text() for one in self.window.side.findChildren(QLabel) if one.isVisible())
        self.assertIn("No open findings.", said)

    def test_another_look_keeps_the_cards_and_what_is_typed_in_them(self):
        self.open_demo("schedule")
        self.window.resize(1600, 900)
        (card,) = self.cards()
        self.press(card, "Accept …")
        QTest.keyClicks(self.window.focusWidget(), "the trams run")
        self.window.commands.run("dark")
        self.window.commands.run("large")
        self.assertEqual(self.cards(), [card])
        self.assertEqual(self.window.focusWidget().text(), "the trams run")
        self.assertEqual(card.findChildren(Mark)[0].width(), look.px(16))
        self.window.go("addresses")
        for large in (False, True):
            if look.large != large:
                self.window.commands.run("large")
            for stage in STAGES:
                self.window.go(stage)
                for card in self.cards():
                    for shown in card.findChildren(QPushButton):
                        self.assertNotIn("…", shown.text().removesuffix(" …"))
                        self.assertGreaterEqual(shown.width(), shown.sizeHint().width(), shown.text())
                    if card._finding.fix is not None:
                        told = {one.text() for one in card.findChildren((QPushButton, QLabel))}
                        self.assertIn(
                            card._finding.fix.label, told, "the button, or the line beneath, says the whole step"
                        )

    def test_an_edit_elsewhere_keeps_a_card_and_its_fix_is_of_the_job_as_it_is_then(self):
        self.open_demo("addresses")
        before = self.cards()
        kept = next(card for card in before if card._finding.fix is not None)
        others = [card for card in before if card is not kept]
        self.session.apply(set_fields(["cam-2"], "Set note", note="behind the sign"))
        self.assertEqual([card in self.cards() for card in (kept, *others)], [True] * len(before))
        self.press(kept, kept._finding.button_words)
        self.assertEqual(by_id(self.session.job.cameras)["cam-2"].note, "behind the sign")
        self.assertNotIn(kept, self.cards())

    def test_choices_of_the_job_before_an_edit_are_put_away(self):
        self.open_demo("wiring")
        (card,) = [card for card in self.cards() if "118 m" in card._finding.title]
        self.press(card, "Choices")
        self.wait_for_work()
        self.session.apply(set_fields(["cam-2"], "Set note", note="behind the sign"))
        self.assertIn(card, self.cards())
        self.assertEqual(card._choices.count(), 0)

    def test_of_the_stage_or_of_the_whole_job(self):
        self.open_demo("schedule")
        few = len(self.cards())
        self.press(self.window.side, "Whole job")
        first, all_ = self.cards(), len(self.session.assessment.findings)
        self.assertGreater(len(first), few)
        self.press(self.window.side, f"Show 20 of {all_ - len(first)} more")
        self.assertTrue(self.cards()[len(first)].isAncestorOf(self.window.focusWidget()))
        self.press(self.window.side, f"Show {all_ - len(first) - 20} more")
        self.assertEqual(len(self.cards()), all_)
        self.assertEqual(self.cards()[: len(first)], first)
        self.press(self.window.side, "This page")
        self.press(self.window.side, "Whole job")
        self.assertEqual(len(self.cards()), len(first))

    def test_a_question_begun_in_one_job_is_not_asked_in_the_next(self):
        self.open_demo("schedule")
        (card,) = self.cards()
        self.press(card, "Accept …")
        self.session.start_job(demo_job())
        QApplication.processEvents()
        (other,) = self.cards()
        self.assertEqual((other is card, other._finding.title), (False, card._finding.title))
        self.assertEqual(other.findChildren(QLineEdit), [])

    def test_step_by_step_all_is_shown_what_is_accepted_last(self):
        job = job_with([camera(at, name=f"Gate {at}") for at in range(1, 45)])
        self.open_job(job, "wiring")
        for finding in self.session.assessment.findings[-3:]:
            self.session.apply(accept(finding.code, finding.subjects, finding.title, "as agreed"))
        self.press(self.window.side, "Whole job")
        open_, accepted = len(self.session.assessment.findings), len(self.session.assessment.accepted)
        shown = []
        while True:
            QApplication.processEvents()
            done = [one for one in self.window.side.findChildren(AcceptedCard) if not one.isHidden()]
            shown.append((len(self.cards()), len(done)))
            left = [one for one in self.window.side.findChildren(QPushButton) if one.text().endswith(" more")]
            left = [one for one in left if one.isVisible()]
            if not left:
                break
            left[0].click()
        self.assertEqual(shown[-1], (open_, accepted))
        self.assertEqual([sum(one) for one in shown[:-1]], [10 + 20 * at for at in range(len(shown) - 1)])
        self.assertEqual(accepted, 3)

    def test_the_rail_counts_what_needs_somebody(self):
        self.open_demo()
        for stage in STAGES:
            counted = self.window.rail._counts.get(stage, (0, None))[0]
            self.assertEqual(counted, self.session.assessment.open_count(stage))

    def test_a_narrow_window_gives_the_room_to_the_page(self):
        self.open_demo()
        self.window.resize(1024, 700)
        QApplication.processEvents()
        self.assertFalse(self.window.side.isVisible())
        # What happens while it is out of sight stands there when it comes back.
        self.window.go("addresses")
        self.session.apply(set_fields(["cam-5"], "Set", address="172.22.40.1"))
        self.press(self.window.header, "Findings (")
        self.assertTrue(self.window.side.isVisible())
        titles = [one.title for one in self.session.assessment.of_stage("addresses")]
        shown = [one.text() for card in self.cards() for one in card.findChildren(QLabel)]
        self.assertTrue(titles)
        self.assertEqual([one for one in titles if one not in shown], [])
        self.assertEqual((self.window.width(), self.window.height()), (1024, 700))


class Readout(WindowCase):
    def test_the_figures_are_the_tightest_of_their_kind(self):
        self.open_demo()
        days, incoming, power, registered, addresses, checks = readings(self.session.assessment)
        self.assertEqual((days.figure, days.rest), ("23", "of 31 required"))
        self.assertEqual((power.words, power.figure), ("Power · Halt switch", "47.6"))
        self.assertEqual(
            (incoming.figure, incoming.rest),
            (figure(self.session.assessment.recorder("rec-1").incoming_mbps), "of 256 Mb/s, busier half"),
        )
        self.assertEqual((registered.figure, addresses.figure, checks.figure), ("35", "4", "15"))
        self.assertTrue(days.assumed)

    def test_each_opens_its_working(self):
        self.open_demo()
        for cell in self.window.readout._cells:
            self.key(cell, Qt.Key.Key_Return)
            self.assertTrue(self.window.side._working.isVisible())
        self.click(self.window.readout._cells[0])
        self.assertIn("23.3 days", self.window.side._working._title.text())

    def test_a_working_follows_the_job_and_can_be_copied(self):
        self.open_demo()
        self.session.show_working(FigureRef("days", "rec-1"))
        self.session.apply(set_fields(["rec-1"], "x", drives=4))
        self.assertIn("35.5 days", self.window.side._working._title.text())
        self.press(self.window.side._working, "Copy")
        self.assertIn("Source:", self.clipboard())
        self.press(self.window.side._working, "Close")
        self.assertFalse(self.window.side._working.isVisible())

    def test_an_empty_job_has_no_figures_and_no_crash(self):
        self.open_job(EMPTY_JOB)
        self.assertEqual(
            [reading.figure for reading in readings(self.session.assessment)], ["–", "–", "–", "0", "0", "0"]
        )


class Files(WindowCase):
    def test_save_asks_for_a_name_once(self):
        self.window.new_job()
        path = self.folder / "new.lens.json"
        self.asker.files = [path]
        self.session.apply(set_fields([], "x"))
        self.shortcut(Qt.Key.Key_S)
        self.assertTrue(path.exists())
        self.window.run("add-camera")
        self.assertIn("not saved", self.window.header._state.text())
        self.shortcut(Qt.Key.Key_S)
        self.assertEqual(len(read_job(path)[0].cameras), 1)
        self.assertEqual(len(self.asker.asked), 1)
        self.assertIn("saved", self.window.header._state.text())

    def test_what_is_being_typed_counts_before_it_is_saved(self):
        page = self.open_job(job_with([camera(1)]))
        path = self.folder / "typed.lens.json"
        self.asker.files = [path]
        page.cameras.setCurrentIndex(page.cameras.records.index(1, 2))
        page.cameras.setFocus()
        self.key(page.cameras, Qt.Key.Key_F2)
        editor = self.window.focusWidget()
        editor.clear()
        QTest.keyClicks(editor, "7")
        self.window.run("save")
        self.assertEqual(read_job(path)[0].cameras[0].fps, 7)

    def test_the_title_marks_unsaved_work(self):
        self.open_job(job_with([camera(1)]))
        self.assertFalse(self.window.windowTitle().startswith("*"))
        self.session.apply(set_fields(["cam-1"], "x", fps=5))
        self.assertTrue(self.window.windowTitle().startswith("*Test job"))

    def test_unsaved_work_is_asked_about_before_it_is_left(self):
        self.open_job(job_with([camera(1)]))
        self.session.apply(set_fields(["cam-1"], "x", fps=5))
        for leave in (self.window.new_job, self.window.open_demo, self.window.ask_start, self.window.close):
            with self.subTest(leave.__name__):
                leave()
                self.assertEqual(self.session.job.name, "Test job")
        self.asker.answers = [1]
        self.window.open_demo()
        self.assertEqual(self.session.job.name, "Brindlemoor Tramway")

    def test_save_on_leaving(self):
        self.open_job(job_with([camera(1)]))
        self.session.apply(set_fields(["cam-1"], "x", fps=5))
        path = self.folder / "kept.lens.json"
        self.asker.answers, self.asker.files = [0], [path]
        self.window.new_job()
        self.assertEqual(read_job(path)[0].cameras[0].fps, 5)

    def test_changed_on_disk_is_a_decision(self):
        path = self.write("job.lens.json", job_text(job_with([camera(1)])))
        self.window.open_path(path)
        self.session.apply(set_fields(["cam-1"], "x", fps=5))
        path.write_text(job_text(job_with(name="Theirs")), "utf-8")
        self.assertFalse(self.window.files.save())
        self.assertEqual(read_job(path)[0].name, "Theirs")
        other = self.folder / "other.lens.json"
        self.asker.answers, self.asker.files = [1], [other]
        self.assertTrue(self.window.files.save())
        self.assertEqual(read_job(other)[0].cameras[0].fps, 5)
        self.assertEqual(read_job(path)[0].name, "Theirs")

    def test_a_broken_file_is_told_and_nothing_is_lost(self):
        self.open_job(job_with([camera(1)]))
        self.window.open_path(self.write("broken.lens.json", "{"))
        self.assertIn("cannot be opened", self.last_notice())
        self.assertEqual(self.session.job.name, "Test job")
        self.assertTrue(self.window.notices.isVisible())

    def test_files_are_dropped_on_the_window(self):
        path = self.write("shed.lens.json", job_text(job_with(name="Shed")))
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path))])

        class Drop:
            accepted = False

            def mimeData(self):
                return data

            def acceptProposedAction(self):
                self.accepted = True

        drop = Drop()
        self.window.dragEnterEvent(drop)
        self.assertTrue(drop.accepted)
        self.window.dropEvent(drop)
        self.assertEqual(self.session.job.name, "Shed")


class Troubles(WindowCase):
    def test_an_error_inside_is_told_and_kept_without_a_word_of_the_job(self):
        catch_troubles(self.folder, lambda text: self.session.notice(text, needs=True))
        self.open_job(job_with([camera(1, name="Secret gate")]))
        with mock.patch("sys.__excepthook__"):
            try:
                raise KeyError("Secret gate")
            except KeyError as error:
                for _ in range(3):  # as from a cell that is painted again and again
                    sys.excepthook(type(error), error, error.__traceback__)
        self.assertEqual(self.last_notice(), "")  # never in the middle of a painting
        QApplication.processEvents()
        self.assertEqual(len(self.notices), 1)
        text = (self.folder / "trouble.txt").read_text("utf-8")
        self.assertIn("KeyError", text)
        self.assertIn("test_window.py", text)
        self.assertNotIn("Secret", text)
        self.assertIn("Your work is still here", self.last_notice())


class Monkey(WindowCase):
    """Keys and clicks at random: nothing inside may go wrong, and undo leads back to the very start."""

    watches_windows = True

    KEYS = (
        Qt.Key.Key_Tab,
        Qt.Key.Key_Backtab,
        Qt.Key.Key_Left,
        Qt.Key.Key_Right,
        Qt.Key.Key_Up,
        Qt.Key.Key_Down,
        Qt.Key.Key_Return,
        Qt.Key.Key_Space,
        Qt.Key.Key_Delete,
        Qt.Key.Key_Escape,
        Qt.Key.Key_F2,
        Qt.Key.Key_F6,
        Qt.Key.Key_5,
        Qt.Key.Key_A,
        Qt.Key.Key_Home,
    )

    def test_five_hundred_keys_and_clicks(self):
        source = random.Random(5)
        self.asker.answers = [2] * 500
        self.open_demo()
        start = self.session.job
        for step in range(repeats(150, 500)):
            if step % 40 == 0:
                self.window.go(source.choice(STAGES))
                QApplication.processEvents()
            focus = self.window.focusWidget()
            if source.random() < 0.75 and focus is not None:
                modifier = source.choice([Qt.KeyboardModifier.NoModifier] * 6 + [Qt.KeyboardModifier.ShiftModifier])
                QTest.keyClick(focus, source.choice(self.KEYS), modifier)
            else:
                page = self.window.pages[self.window.stage]
                targets = [w for w in page.findChildren(QWidget) if w.isVisible() and w.width() > 4 and w.height() > 4]
                if targets and not isinstance(self.window.stack.currentWidget(), ImportView):
                    target = source.choice(targets)
                    point = QPoint(source.randrange(target.width()), source.randrange(target.height()))
                    QTest.mouseClick(target, Qt.MouseButton.LeftButton, pos=point)
            popup = QApplication.activePopupWidget()
            if popup is not None:
                popup.close()
            if step % 10 == 0:
                QApplication.processEvents()
        # The search for a better rule takes its time, and is not what is looked for here.
        stop_tasks_of(self.window)
        self.wait_for_work()
        self.assertEqual(self.troubles, [])
        for _ in range(600):
            self.session.undo()
        self.assertEqual(self.session.job, start)


class Looks(WindowCase):
    def test_dark_and_large_and_back(self):
        self.open_demo()
        self.window.run("dark")
        self.assertTrue(look.dark)
        QApplication.processEvents()
        light_text = self.picture_of(self.window).toImage().pixelColor(600, 400)
        self.window.run("large")
        self.assertEqual(self.window.rail.width(), look.px(176))
        self.assertLess(light_text.lightness(), 80)
        self.window.run("dark")
        self.window.run("large")
        self.assertFalse(look.dark or look.large)
        self.assertEqual((self.window.width(), self.window.height()), (1280, 800))

    def test_the_preference_is_kept(self):
        self.window.run("dark")
        self.assertTrue(self.new_session().preferences.dark)

    def test_every_page_fits_the_small_window_in_large_type(self):
        self.open_job(demo_job())
        self.window.run("large")
        self.window.resize(1024, 700)
        for stage in STAGES:
            self.window.go(stage)
            QApplication.processEvents()
            with self.subTest(stage):
                self.assertEqual((self.window.width(), self.window.height()), (1024, 700))

    @takes_long
    def test_every_page_shows_an_empty_job_and_five_hundred_cameras(self):
        from tools.perf.benchmarks import job_of

        for job in (EMPTY_JOB, job_of(500)):
            self.session.start_job(job)
            for stage in STAGES:
                with self.subTest(cameras=len(job.cameras), stage=stage):
                    self.window.go(stage)
                    QApplication.processEvents()
                    self.assertFalse(self.picture_of(self.window).isNull())
        self.wait_for_work()


if __name__ == "__main__":
    unittest.main()


class Side(WindowCase):
    def test_the_findings_stand_beside_the_page_from_the_first_one_on(self):
        self.open_demo()
        self.assertTrue(self.window.side.isVisible())
