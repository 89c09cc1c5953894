"""The Proof page: mounting lists, acceptance tests, walks, readings, snags and the event log, in the real window."""

from datetime import UTC, date, datetime, timedelta
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from eager_lens.core.clip.drawn import Drawn, write_clip
from eager_lens.core.job.edits import set_job
from eager_lens.core.job.proof import FillReading
from eager_lens.core.job.proving import add_fill_reading
from eager_lens.core.records.event_log.entry import Event
from eager_lens.core.records.event_log.log_file import append, log_beside
from eager_lens.core.records.event_log.verify import entries_of, verify
from eager_lens.core.runbook.mounting import list_text, usual_steps
from eager_lens.desk.pages.proof.acceptance_view import RESULT
from eager_lens.desk.pages.proof.page import FILLING, LOG, MOUNTING, SNAGS, TESTS, WALK
from eager_lens.desk.session import Session
from tests.desk.base import WindowCase
from tests.support import camera, demo_job, job_with, recorder

SPACE = Qt.Key.Key_Space
SMALL = Drawn(width_px=160, height_px=96, fps=10, duration_s=4)


class ProofCase(WindowCase):
    view = TESTS

    def opened(self, *cameras, saved=False, **fields):
        page = self.open_job(job_with(cameras or [camera(1, purpose="observe"), camera(2)], **fields), "proof")
        if saved:
            self.session.save_as(self.folder / "yard.lens.json")
        page.person.setText("W. Ash")
        page._take_person()
        page.show_view(self.view)
        return page

    def picture(self, name="east.png", width=960, height=540):
        image = QImage(width, height, QImage.Format.Format_RGB32)
        image.fill(QColor("grey"))
        path = self.folder / name
        self.assertTrue(image.save(str(path)))
        return path


class AcceptanceTests(ProofCase):
    def setUp(self):
        super().setUp()
        self.tests = self.opened().acceptance
        self.tests.lead_to("cam-1")

    def select(self, label):
        at = next(
            at
            for at in range(self.tests.tests.records.rowCount())
            if self.tests.tests.records.at(at).test.label == label
        )
        self.tests.tests.setCurrentIndex(self.tests.tests.records.index(at, 0))
        return at

    def outcomes(self):
        return [(one.device, one.check, one.outcome, one.by) for one in self.session.job.checks]

    def type_and_enter(self, text):
        """As somebody types who looks at the site, not at the screen: the row is selected, and the keys come."""
        for letter in text:
            QTest.keyClicks(self.app.focusWidget(), letter)
            QApplication.processEvents()
        self.key(self.app.focusWidget(), Qt.Key.Key_Return)
        QApplication.processEvents()

    def test_typing_with_a_row_selected_opens_the_result(self):
        self.select("Night picture")
        self.tests.tests.setFocus()
        self.type_and_enter("failed dark")
        self.assertEqual([(one.outcome, one.value) for one in self.session.job.checks], [("failed", "dark")])
        self.select("Live picture")
        self.type_and_enter("passed")
        self.assertEqual(self.outcomes()[1], ("cam-1", "picture", "passed", "W. Ash"))

    def test_no_single_key_records_a_result(self):
        for label in ("Live picture", "Pixel density", "Label"):
            self.select(label)
            for letter in " abcdefghijklmnopqrstuvwxyz0123456789+-.,":
                self.select(label)
                QTest.keyClicks(self.tests.tests, letter)
                self.assertEqual(self.session.job.checks, (), letter)
                self.key(self.app.focusWidget(), Qt.Key.Key_Escape)
        for key in (Qt.Key.Key_Return, Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_F5):
            self.select("Label")
            self.key(self.tests.tests, key)
            self.assertEqual(self.session.job.checks, ())
            self.key(self.app.focusWidget(), Qt.Key.Key_Escape)

    def test_what_was_seen_is_recorded_and_judged(self):
        self.put_cell(self.tests.tests, self.select("Live picture"), "result", "passed")
        self.put_cell(self.tests.tests, self.select("Clip found"), "result", "failed not there")
        self.assertEqual(self.outcomes()[1], ("cam-1", "clip", "failed", "W. Ash"))
        self.assertEqual(self.session.job.snags[0].text, "Clip found failed: not there")
        self.assertIn("Snag open: Clip found failed: not there", self.tests._history.text())
        self.put_cell(self.tests.tests, self.select("Clip found"), "result", "perhaps")
        self.assertIn("begin with passed or failed", self.last_notice())

    def test_a_measured_value_is_judged_by_the_plan(self):
        self.select("Pixel density")
        self.key(self.tests.tests, SPACE)
        editor = self.app.focusWidget()
        QTest.keyClicks(editor, "40 px/m")
        self.key(editor, Qt.Key.Key_Return)
        check = self.session.job.checks[-1]
        self.assertEqual((check.measured, check.outcome), (40, "failed"))
        self.assertIn("62.5 or more to observe", self.tests._how.text())

    def test_the_failed_button_begins_the_sentence(self):
        self.select("Night picture")
        self.click(self.tests.failed)
        QTest.keyClicks(self.app.focusWidget(), "lamp in view")
        self.key(self.app.focusWidget(), Qt.Key.Key_Return)
        self.assertEqual(self.session.job.checks[-1].value, "lamp in view")

    def test_several_devices_in_one_step(self):
        self.session.select(["cam-1", "cam-2"])
        self.select("Label")
        self.click(self.tests.passed)
        self.assertEqual({one[0] for one in self.outcomes()}, {"cam-1", "cam-2"})
        self.session.undo()
        self.assertEqual(self.outcomes(), [])

    def test_a_wrong_entry_is_withdrawn_and_stays_on_record(self):
        at = self.select("Label")
        self.put_cell(self.tests.tests, at, "result", "failed wrong camera")
        self.select("Label")
        self.key(self.tests.tests, Qt.Key.Key_Delete)
        self.assertEqual(self.session.job.checks[0].counts, True)
        self.key(self.app.focusWidget(), Qt.Key.Key_Return)
        self.assertIn("enter the reason for the withdrawal", self.last_notice())
        self.put_cell(self.tests.tests, self.select("Label"), "result", "withdrawn it was camera 2")
        (check,) = self.session.job.checks
        self.assertEqual((check.counts, check.withdrawn_by, check.withdrawn_why), (False, "W. Ash", "it was camera 2"))
        self.assertEqual([snag.state for snag in self.session.job.snags], ["put right"])
        self.assertIn("withdrawn by W. Ash: it was camera 2", self.tests._history.text())
        self.assertEqual(self.cell(self.tests.tests, self.select("Label"), "result"), "")
        self.session.undo()
        self.assertTrue(self.session.job.checks[0].counts)

    def test_what_is_left_and_what_failed_can_be_shown_alone(self):
        self.put_cell(self.tests.tests, self.select("Label"), "result", "failed")
        self.tests.shown.setCurrentIndex(2)
        self.assertEqual(
            [self.tests.devices.records.at(at).id for at in range(self.tests.devices.records.rowCount())], ["cam-1"]
        )
        self.tests.lead_to("rec-1")
        self.assertEqual(self.tests.devices.selected_parts()[0].name, "Recorder 1")

    def test_the_whole_site_stands_last(self):
        records = self.tests.devices.records
        self.assertEqual(records.at(records.rowCount() - 1).name, "Whole site")

    def test_pixels_are_measured_on_a_picture(self):
        self.select("Pixel density")
        self.tests.asker.files = [self.picture()]
        self.click(self.tests.measure)
        shown = self.tests.picture
        self.assertTrue(shown.isVisible())
        QTest.qWait(20)
        picture = shown.picture
        area = picture._area()
        ends = [(round(area.left() + x * picture._scale()), round(area.center().y())) for x in (200, 440)]
        self.drag(picture, *ends)
        # 240 px of a still of half the stream's width, over a folding rule of 2 m: about 240 px/m.
        shown.what.setCurrentIndex(4)
        self.assertAlmostEqual(shown.density().px_per_m, 240, delta=6)
        before = picture.mark_px
        self.key(picture, Qt.Key.Key_Right)
        self.assertAlmostEqual(picture.mark_px, before + 1, delta=0.1)
        self.click(shown.record)
        check = self.session.job.checks[-1]
        self.assertEqual((check.check, check.how, check.outcome), ("density", "picture", "passed"))
        self.assertIn("2 m, on east.png", check.value)
        self.assertFalse(shown.isVisible())

    def test_a_clip_proves_the_stream_and_that_it_was_found(self):
        clip = write_clip(self.folder / "hall.mp4", SMALL, begun="2026-11-20T14:02:00Z")
        for label, test_id, outcome, words in (
            ("Stream", "stream", "failed", f"{SMALL.width_px} × {SMALL.height_px}"),
            ("Clip found", "clip", "passed", "begins 2026-11-20 14:02:00"),
        ):
            self.select(label)
            self.tests.asker.files = [clip]
            self.click(self.tests.clip)
            self.until(lambda: not self.tests.busy.is_running)
            check = self.session.job.checks[-1]
            self.assertEqual((check.check, check.outcome, check.how), (test_id, outcome, "clip"))
            self.assertIn(words, check.value)
            self.assertIn("hall.mp4", check.value)

    def test_a_picture_that_is_cut_or_broken_is_told(self):
        self.select("Pixel density")
        broken = self.write("x.png", "no picture")
        self.tests.asker.files = [broken, self.picture("tall.png", 300, 500)]
        self.click(self.tests.measure)
        self.assertIn("x.png cannot be shown", self.last_notice())
        self.assertFalse(self.tests.picture.isVisible())
        self.click(self.tests.measure)
        self.assertIn("a different aspect ratio", self.tests.picture._warning.text())

    def test_a_photo_needs_a_saved_job_and_goes_beside_it(self):
        self.put_cell(self.tests.tests, self.select("Label"), "result", "passed")
        self.tests.asker.files = [self.picture()]
        self.click(self.tests.attach)
        self.assertIn("Save the job first", self.last_notice())
        self.session.save_as(self.folder / "yard.lens.json")
        self.click(self.tests.attach)
        (digest,) = self.session.job.checks[0].photos
        self.session.log.flush()
        found = verify(log_beside(self.session.path), photos=self.folder / "yard photos")
        self.assertTrue(found.whole, found.troubles)
        self.assertIn(digest, found.photos)
        self.assertIn("1 photo", self.tests._history.text())


class Mounting(ProofCase):
    view = MOUNTING

    def test_space_ticks_a_step_with_its_caution_in_sight(self):
        view = self.opened(camera(1, outdoor=True)).mounting
        view.lead_to("cam-1")
        at = next(
            at for at in range(view.steps.records.rowCount()) if getattr(view.steps.records.at(at), "id", "") == "surge"
        )
        view.steps.setCurrentIndex(view.steps.records.index(at, 0))
        self.assertIn("licensed electrician", view._caution.text())
        self.assertTrue(view._caution.isVisible())
        self.key(view.steps, SPACE)
        (tick,) = self.session.job.mounting
        self.assertEqual((tick.step, tick.by), ("cam-1/surge", "W. Ash"))
        self.key(view.steps, SPACE)
        self.assertEqual(self.session.job.mounting, ())

    def test_a_firms_own_list(self):
        view = self.opened().mounting
        out = self.folder / "list.json"
        view.asker.files = [out]
        self.click(view.save_list)
        self.assertEqual(out.read_text("utf-8"), list_text(usual_steps()))
        own = self.write("own.json", list_text(usual_steps()[:3]))
        view.asker.files = [own, self.write("bad.json", "{}")]
        self.click(view.take_list)
        self.assertEqual(len(self.session.job.mounting_list), 3)
        self.click(view.take_list)
        self.assertIn("bad.json", self.last_notice())
        self.click(view.usual_list)
        self.assertEqual(self.session.job.mounting_list, ())


class WalkTests(ProofCase):
    view = WALK

    def walked(self, view, *answers):
        self.click(view.start)
        for answer in answers:
            view.test.left_s = 0
            view._tick()
            self.click({"caught": view.caught, "missed": view.missed, "not": view.not_walked}[answer])

    def test_walks_are_called_counted_and_recorded(self):
        view = self.opened().walk
        view.walks.show_value(3)
        view.dark.setChecked(True)
        self.click(view.start)
        self.assertIn("Walk 1 of 3: from left to right, in", view.call.text())
        self.assertFalse(view.caught.isEnabled())
        view.test.left_s = 0
        view._tick()
        self.assertIn("now", view.call.text())
        self.key(view, Qt.Key.Key_C)
        view.test.left_s = 0
        view._tick()
        self.click(view.missed)
        view.test.left_s = 0
        view._tick()
        self.click(view.not_walked)
        walks = [(one.caught, one.dark, one.by) for one in self.session.job.walks]
        self.assertEqual(walks, [(True, True, "W. Ash"), (False, True, "W. Ash")])
        check = self.session.job.checks[-1]
        self.assertEqual((check.check, check.measured, check.outcome, check.how), ("motion", 50, "failed", "walk test"))
        self.assertIn("1 of 2 caught, in the dark", check.value)
        self.assertEqual(len(self.session.job.snags), 1)
        (row,) = [view.table.records.at(at) for at in range(view.table.records.rowCount())]
        self.assertEqual((row.seen.caught, row.seen.walks), (1, 2))

    def test_walks_are_held_against_what_the_rule_promises(self):
        view = self.opened().walk
        self.walked(view, "caught", "caught")
        self.click(view.stop)
        looked = mock.Mock()
        looked.outcome.visits, looked.outcome.missed_share = (1,), 0.05

        class Tried:
            words = "the yard"

            def source(self):
                yield 0.5

            def look(self, source, rule, extent):
                yield 0.9
                return looked

        with mock.patch("eager_lens.desk.pages.proof.walk_view.tried_rule_of", lambda one: Tried()):
            self.click(view.promise)
            self.until(lambda: not view.busy.is_running and view.table.records.at(0).promised_share)
        row = view.table.records.at(0)
        self.assertAlmostEqual(row.promised_share, 0.95)
        self.assertIn("so few walks", view.table.records.columns[-1].show(row, self.session.assessment))

    def test_the_clock_stands_still_while_nobody_looks(self):
        page = self.opened()
        self.click(page.walk.start)
        page.show_view(SNAGS)
        self.assertFalse(page.walk._clock.isActive())
        page.show_view(WALK)
        self.assertTrue(page.walk._clock.isActive())

    def test_no_camera_with_a_rule(self):
        view = self.opened(camera(1, motion_rule_on=False)).walk
        self.assertIn("No camera", view.call.text())
        self.assertFalse(view.start.isEnabled())


class Filling(ProofCase):
    view = FILLING

    def test_readings_give_days_and_the_test(self):
        view = self.opened(recorders=(recorder(1),)).filling
        self.click(view.add)
        self.assertIn("how much of the drives", self.last_notice())
        view.used.setFocus()
        QTest.keyClicks(view.used, "2.5")
        self.click(view.add)
        self.assertEqual(self.session.job.fill_readings[0].used_tb, 2.5)
        self.assertIn("two or more", view._words.text())
        earlier = FillReading(recorder="rec-1", at="2026-01-01T08:00", used_tb=0.5)
        self.session.apply(add_fill_reading(earlier))
        self.assertIn("from 2 readings", view._words.text())
        self.click(view.record)
        check = self.session.job.checks[-1]
        self.assertEqual((check.device, check.check, check.how), ("rec-1", "days", "readings"))


class Snags(ProofCase):
    view = SNAGS

    def test_a_snag_is_added_owned_dated_and_closed(self):
        view = self.opened().snags
        self.click(view.add)
        self.assertIn("Enter what is wrong", self.last_notice())
        view.text.setText("gate does not lock")
        self.key(view.text, Qt.Key.Key_Return)
        self.put_cell(view.table, 0, "owner", "locksmith")
        late = date.today() - timedelta(days=3)
        self.put_cell(view.table, 0, "due", late.isoformat())
        (snag,) = self.session.job.snags
        self.assertEqual((snag.device, snag.owner, snag.due), ("site", "locksmith", late))
        self.assertIn("3 days late", view.table.records.columns[3].show(snag, self.session.assessment))
        view.table.setCurrentIndex(view.table.records.index(0, 0))
        view.outcome.setText("new lock")
        self.click(view.put_right)
        self.assertEqual(
            (self.session.job.snags[0].state, self.session.job.snags[0].outcome), ("put right", "new lock")
        )
        self.assertEqual(view.table.records.rowCount(), 0)
        view.shown.setCurrentIndex(1)
        view.table.setCurrentIndex(view.table.records.index(0, 0))
        self.click(view.reopen)
        self.assertEqual(self.session.job.snags[0].state, "open")


class EventLogs(ProofCase):
    view = LOG

    def logged(self):
        self.session.log.flush()
        return [(entry.event.kind, entry.event.what) for entry in entries_of(log_beside(self.session.path))]

    def test_every_step_is_logged_with_who_and_undo_too(self):
        self.opened(saved=True)
        self.session.apply(set_job("name", name="Yard"))
        self.session.undo()
        self.session.redo()
        self.session.save_as(self.session.path)
        entries = self.logged()
        self.assertEqual([kind for kind, _ in entries][-4:], ["edit", "undo", "redo", "saved"])
        last = list(entries_of(log_beside(self.session.path)))[-1]
        self.assertEqual((last.by, len(last.event.values["sha256"])), ("W. Ash", 64))
        self.assertTrue(verify(log_beside(self.session.path)).whole)

    def test_steps_of_one_drag_are_one_entry(self):
        self.opened(saved=True)
        before = len(self.logged())
        for at in range(5):
            edit = set_job("name", name=f"Yard {at}")
            self.session.apply(type(edit)(f"Drag {at}", edit.apply, "drag-1"))
        self.assertEqual([what for _, what in self.logged()[before:]], ["Drag 4"])

    def test_looking_alone_writes_nothing_and_leaving_unsaved_work_does(self):
        self.opened(saved=True)
        path = self.session.path
        log = log_beside(path)
        self.session.log.flush()
        log.unlink()
        self.session.open(path)
        self.session.close()
        self.assertFalse(log.exists())
        self.session.open(path)
        self.session.apply(set_job("name", name="Other"))
        self.session.close()
        kinds = [entry.event.kind for entry in entries_of(log)]
        self.assertEqual(kinds, ["log begun", "job opened", "edit", "closed"])

    def test_the_log_goes_along_under_another_name(self):
        self.opened(saved=True)
        self.session.apply(set_job("name", name="Other"))
        self.session.save_as(self.folder / "copy.lens.json")
        first, second = (list(entries_of(self.folder / f"{name}.log.jsonl")) for name in ("yard", "copy"))
        self.assertEqual([one.hash for one in second[: len(first)]], [one.hash for one in first])
        self.assertEqual(second[-1].event.what, "Save copy.lens.json")

    def test_what_cannot_be_written_is_kept_and_tried_again(self):
        self.opened(saved=True)
        log = log_beside(self.session.path)
        self.session.log.flush()
        whole = log.read_bytes()
        log.write_bytes(b"shopping\n")
        self.session.apply(set_job("name", name="Other"))
        self.session.log.flush()
        self.assertIn("The event log could not be written", self.last_notice())
        log.write_bytes(whole)
        self.session.apply(set_job("name", name="Third"))
        self.assertEqual([kind for kind, _ in self.logged()][-2:], ["edit", "edit"])
        self.assertEqual(self.session.log.trouble, "")

    def test_the_view_shows_verifies_and_finds_a_change(self):
        page = self.opened(saved=True)
        self.session.apply(set_job("name", name="Findme"))
        view = page.log
        self.until(lambda: view.table.records.rowCount() and view.table.records.at(0).entry.event.what == "Set name")
        view.filter.setText("set name")
        self.assertEqual(
            {view.table.records.at(at).entry.event.what for at in range(view.table.records.rowCount())}, {"Set name"}
        )
        self.click(view.verify)
        self.until(lambda: view._state.text().startswith("Whole"))
        view.filter.setText("")
        self.click(view.copy_anchor)
        number, digits = self.clipboard().split()
        self.assertEqual((int(number), len(digits)), (len(self.logged()), 64))
        log = log_beside(self.session.path)
        log.write_bytes(log.read_bytes().replace(b"Set name", b"Set game"))
        self.click(view.verify)
        self.until(lambda: view._state.text().startswith("Changed"))

    def test_merging_signing_and_a_copy(self):
        page = self.opened(saved=True)
        view = page.log
        other = self.folder / "other.log.jsonl"
        self.session.log.flush()
        other.write_bytes(log_beside(self.session.path).read_bytes())
        append(other, [(Event("edit", "Theirs"), datetime.now(UTC))], "B. Fell", "x")
        copy = self.folder / "copy.jsonl"
        view.asker.files = [other, copy]
        self.click(view.merge)
        self.until(lambda: ("edit", "Theirs") in self.logged() and not view.busy.is_running)
        self.click(view.save)
        self.assertTrue(copy.exists())
        self.click(view.sign)
        view.passphrase.setText("under the old signal box")
        self.click(view.make_key)
        self.assertTrue(view.key_path.exists())
        view.passphrase.setText("under the old signal box")
        self.click(view.sign_now)
        self.until(lambda: verify(log_beside(self.session.path)).signers and not view.passphrase.text())

    def test_two_windows_on_one_job(self):
        self.opened(saved=True)
        other = Session(self.folder / "config2", self.folder / "state2")
        self.addCleanup(other.deleteLater)
        other.open(self.session.path)
        for at in range(5):
            self.session.apply(set_job("name", name=f"A {at}"))
            self.session.log.flush()
            other.apply(set_job("name", name=f"B {at}"))
            other.log.flush()
        other.close()
        found = verify(log_beside(self.session.path))
        self.assertTrue(found.whole, found.troubles)
        self.assertEqual(sum(kind == "edit" for kind, _ in self.logged()), 10)


class WholeDemo(ProofCase):
    def test_every_view_shows_the_demo(self):
        page = self.open_job(demo_job(), "proof")
        for view in (MOUNTING, TESTS, WALK, FILLING, SNAGS, LOG):
            page.show_view(view)
            QTest.qWait(10)
        self.assertEqual(page.acceptance.tests.records.columns[RESULT].id, "result")
        self.assertGreater(page.filling.table.records.rowCount(), 3)
        self.assertEqual(page.snags.table.records.rowCount(), 2)
