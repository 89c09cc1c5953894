"""Registering, weeks, motion, proof and handover: each page's main task, by mouse and by keyboard."""

import subprocess
import unittest
import zipfile
from unittest import mock

import pypdfium2
from PySide6.QtCore import QMimeData, QPointF, Qt
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPlainTextEdit

from eager_lens.core.files import write_whole
from eager_lens.core.incoming.table_in import read_table
from eager_lens.core.job.edits import set_job
from eager_lens.core.job.file import ENDING
from eager_lens.core.recording.week import Span, schedule_hours
from eager_lens.core.records.sealed.vault import sealed_path
from eager_lens.desk.pages.handover.page import CSV, HTML, PDF, XLSX
from eager_lens.desk.widgets.dragging import DEVICES, devices_from, devices_mime
from tests.desk.base import WindowCase
from tests.support import camera, job_with, recorder, takes_long, week_of


class Bench(WindowCase):
    def setUp(self):
        super().setUp()
        cameras = [camera(1), camera(2), camera(3, registered=())]
        self.page = self.open_job(
            job_with(cameras, recorders=[recorder(1, channels=4), recorder(2, channels=4)]), "bench"
        )
        self.board = self.page.boards["rec-1"][1]

    def channels(self, recorder_id="rec-1"):
        held = self.session.assessment.facts.held[recorder_id]
        return dict(sorted(held.items()))

    def drop(self, board, ids, channel):
        where = board._rect(channel).center()
        data = devices_mime(ids)  # the event does not keep it alive
        event = QDropEvent(
            QPointF(where),
            Qt.DropAction.MoveAction,
            data,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
        board.dropEvent(event)
        QApplication.processEvents()

    def test_fill_the_channels(self):
        self.press(self.page, "Register all cameras")
        self.assertEqual(self.channels(), {1: ["cam-1"], 2: ["cam-2"], 3: ["cam-3"]})
        self.assertIn("1 camera registered", self.last_notice())
        self.assertIn("All 3 cameras are registered", self.page._verdict.text())

    def test_drag_onto_a_free_channel_and_onto_another_camera(self):
        self.drop(self.board, ["cam-3"], 4)
        self.assertEqual(self.channels()[4], ["cam-3"])
        self.drop(self.board, ["cam-1"], 2)
        self.assertEqual(self.channels(), {1: ["cam-2"], 2: ["cam-1"], 4: ["cam-3"]})

    def test_drag_to_the_other_recorder_is_one_step(self):
        self.drop(self.page.boards["rec-2"][1], ["cam-1"], 3)
        self.assertEqual((self.channels(), self.channels("rec-2")), ({2: ["cam-2"]}, {3: ["cam-1"]}))
        self.session.undo()
        self.assertEqual(self.channels(), {1: ["cam-1"], 2: ["cam-2"]})

    def test_by_keyboard(self):
        self.board.setFocus()
        self.key(self.board, Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.channels(), {1: ["cam-2"], 2: ["cam-1"]})
        self.key(self.board, Qt.Key.Key_Return)
        self.assertEqual(self.session.selected, ("cam-1",))
        self.key(self.board, Qt.Key.Key_Delete)
        self.assertEqual(self.channels(), {1: ["cam-2"]})

    def test_register_the_chosen_and_take_them_off(self):
        self.session.select(["cam-1", "cam-3"])
        self.page.channels._register("rec-2", False)
        self.assertEqual(self.channels("rec-2"), {1: ["cam-1"], 2: ["cam-3"]})
        self.press(self.page, "Unregister selected")
        self.assertEqual(self.channels("rec-2"), {})
        self.session.select([])
        self.press(self.page, "Unregister selected")
        self.assertIn("Select cameras first", self.last_notice())

    def test_rows_are_dragged_from_the_table_to_the_board(self):
        records = self.page.cameras.records
        data = records.mimeData([records.index(2, 0), records.index(2, 1)])
        self.assertEqual(devices_from(data), ["cam-3"])
        self.drop(self.board, devices_from(data), 4)
        self.assertEqual(self.channels()[4], ["cam-3"])

    def test_what_is_dragged_carries_its_ids(self):
        data = devices_mime(["cam-1", "cam-2"])
        self.assertTrue(data.hasFormat(DEVICES))
        self.assertEqual(devices_from(data), ["cam-1", "cam-2"])
        self.assertFalse(QMimeData().hasFormat(DEVICES))

    def test_no_channel_left_is_told(self):
        many = [camera(n, registered=()) for n in range(1, 8)]
        self.page = self.open_job(job_with(many, recorders=[recorder(1, channels=4)]), "bench")
        self.press(self.page, "Register all cameras")
        self.assertIn("no channel is left for 3", self.last_notice())


class Schedule(WindowCase):
    def setUp(self):
        super().setUp()
        self.page = self.open_job(job_with([camera(1), camera(2)]), "schedule")
        self.strip = self.page.strip

    def point(self, day, hour):
        row = self.strip._row_rect(day)
        return (round(row.left() + row.width() * hour / 24), round(row.center().y()))

    def monday(self):
        return self.session.job.schedules[0].plan.mon

    def test_paint_with_the_mouse_in_quarter_hours_as_one_step(self):
        self.press(self.page, "Motion")
        self.drag(self.strip, self.point(0, 8.3), self.point(0, 17.6))
        self.assertEqual(self.monday()[1], Span(8 * 60 + 15, 17 * 60 + 45, "motion"))
        self.assertEqual(len(self.monday()), 3)
        self.assertEqual(self.session.undo_label, "Paint motion")
        self.session.undo()
        self.assertEqual(self.monday(), (Span(0, 1440, "continuous"),))

    def test_over_several_days_and_taking_away(self):
        self.drag(self.strip, self.point(0, 1.1), self.point(2, 5.1), Qt.MouseButton.RightButton)
        hours = schedule_hours(self.session.job.schedules[0].plan)
        self.assertAlmostEqual(hours["off"], 3 * 4.25)

    def test_paint_with_the_keyboard(self):
        self.strip.setFocus()
        self.key(self.strip, Qt.Key.Key_Home)
        for _ in range(3):
            self.key(self.strip, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
        self.key(self.strip, Qt.Key.Key_Delete)
        self.assertEqual(self.monday(), (Span(60, 1440, "continuous"),))
        self.press(self.page, "Alarm input")
        self.key(self.strip, Qt.Key.Key_Return)
        self.assertEqual(self.monday()[0], Span(0, 60, "alarm input"))

    def test_hours_and_gb_follow_every_stroke(self):
        before = self.page.schedule._cost.words.text()
        self.press(self.page, "Off")
        self.drag(self.strip, self.point(3, 0.1), self.point(3, 23.9))
        self.assertIn("continuous 144 h", self.page.schedule._cost.words.text())
        self.assertIn("off 24 h", self.page.schedule._cost.words.text())
        self.assertNotEqual(before.split(",")[-1], self.page.schedule._cost.words.text().split(",")[-1])

    def test_copy_a_day_and_paste_it(self):
        self.drag(self.strip, self.point(0, 0.1), self.point(0, 5.9), Qt.MouseButton.RightButton)
        self.strip.setFocus()
        self.key(self.strip, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
        self.key(self.strip, Qt.Key.Key_Down)
        self.key(self.strip, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
        plan = self.session.job.schedules[0].plan
        self.assertEqual(plan.tue, plan.mon)
        self.press(self.page, "Copy this day to all")
        plan = self.session.job.schedules[0].plan
        self.assertEqual(plan.sun, plan.mon)

    def test_weeks_are_named_copied_applied_and_removed(self):
        self.press(self.page, "Add a schedule")
        editor = self.window.focusWidget()
        editor.selectAll()
        QTest.keyClicks(editor, "Running days")
        self.key(editor, Qt.Key.Key_Return)
        self.assertEqual(
            [schedule.name for schedule in self.session.job.schedules], ["Round the clock", "Running days"]
        )
        self.session.select(["cam-1", "cam-2"])
        self.press(self.page, "Apply “Running days” to 2")
        self.assertEqual({c.schedule for c in self.session.job.cameras}, {"schedule-1"})
        self.press(self.page, "Copy")
        self.assertEqual(self.session.job.schedules[2].name, "Running days, copy")
        self.press(self.page, "Remove")
        self.assertEqual(len(self.session.job.schedules), 2)

    def test_without_a_week_the_page_says_what_to_do(self):
        page = self.open_job(job_with([camera(1, schedule="")], schedules=()), "schedule")
        self.assertIn("Add a schedule", page.schedule._none.text())
        self.assertFalse(page.strip.isVisible())


class Movement(WindowCase):
    def test_a_point_of_the_curve_is_adopted(self):
        page = self.open_demo("motion")
        self.session.select(["cam-14"])
        self.assertEqual(page.times._chart._data.now, 30)
        page.times._chart.setFocus()
        self.key(page.times._chart, Qt.Key.Key_Left)
        self.key(page.times._chart, Qt.Key.Key_Return)
        self.press(page, "Set 25 s")
        self.assertEqual(next(c.post_recording_s for c in self.session.job.cameras if c.id == "cam-14"), 25)

    def test_events_that_run_together_are_one_clip(self):
        job = job_with([camera(1, events_per_h=100_000, event_s=86_400)], schedules=(job_with().schedules[0],))
        page = self.open_job(job, "motion")
        self.assertEqual(self.cell(page.cameras, 0, "mean"), "–")
        self.assertIn("No camera records on motion", page._verdict.text())


class Chain(WindowCase):
    def test_the_chain_follows_the_choice_and_names_what_is_broken(self):
        page = self.open_demo("motion")
        self.session.select(["cam-1"])
        self.assertIn("settings match", page.times._chain_words.text())
        self.session.select(["cam-11"])
        self.assertEqual(page.times._chain_words.text(), "Workshop door: broken at “the same port”")
        self.assertIn("the same port: the camera sends to 7443", page.times.chain.accessibleName())
        self.put_cell(page.cameras, self.row_named(page.cameras, "Workshop door"), "motion_rule_on", "no")
        self.assertIn("the camera's rule", page.times._chain_words.text(), "the first broken link is named")

    def test_a_camera_on_no_recorder(self):
        page = self.open_job(job_with([camera(1, registered=())], schedules=(week_of("motion"),)), "motion")
        self.assertIn("no recorder yet", page.times._chain_advice.text())


class Handover(WindowCase):
    def test_the_sheets_are_previewed(self):
        page = self.open_demo("handover")
        self.until(lambda: page.sheets.drawn)
        self.assertGreater(page.sheets.page_count, 7)
        self.assertFalse(page._laying.is_running)
        before = page.sheets.drawn
        bar = page.sheets.verticalScrollBar()
        bar.setValue(bar.maximum())
        self.until(lambda: page.sheets.page_count - 1 in page.sheets.drawn)
        self.assertNotEqual(page.sheets.drawn, before)

    @mock.patch("eager_lens.desk.pages.handover.sheet_view.KEPT", 3)
    def test_few_pages_are_kept_however_many_there_are(self):
        page = self.open_demo("handover")
        self.until(lambda: page.sheets.drawn)
        bar = page.sheets.verticalScrollBar()
        for at in range(0, bar.maximum(), page.sheets.viewport().height()):
            bar.setValue(at)
            self.until(lambda: not page.sheets.missing())
        self.assertGreater(page.sheets.page_count, 6)
        self.assertLessEqual(len(page.sheets.drawn), 3)

    def test_edits_in_quick_succession_while_sheets_are_drawn(self):
        """Two threads in the library that draws pages would end the process."""
        page = self.open_demo("handover")
        page._wait.setInterval(0)
        for at in range(40):
            self.session.apply(set_job("name", name=f"Tramway {at}"))
            page.sheets.resize(500 + at % 3, 400)
            QTest.qWait(15)
        self.until(lambda: page._previewed is self.session.assessment and not page.sheets.missing())
        self.assertEqual(self.troubles, [])

    def test_an_export_and_the_preview_do_not_stop_each_other(self):
        page = self.open_demo("handover")
        path = self.folder / "out.pdf"
        self.asker.files = [path]
        page._export(PDF)
        self.session.apply(set_job("name", name="Another name"))
        page._draw_preview()
        self.until(path.exists)
        self.until(lambda: page._previewed is self.session.assessment)
        self.assertFalse([one.text for one in self.notices if "not written" in one.text or "Stopped" in one.text])

    def test_other_files_are_replaced_only_after_a_question(self):
        page = self.open_demo("handover")
        theirs = self.folder / "out-still-open.csv"
        theirs.write_text("theirs", "utf-8")
        for answer, kept in ((1, True), (0, False)):
            self.asker.files, self.asker.answers = [self.folder / "out.csv"], [answer]
            page._export(CSV)
            self.until(lambda: not page._exporting.is_running)
            self.assertIn("out-still-open.csv", self.asker.asked[-1])
            self.assertEqual(theirs.read_bytes() == b"theirs", kept)
            self.assertEqual((self.folder / "out.csv").exists(), not kept)

    def test_what_was_written_before_a_full_disk_is_told(self):
        page = self.open_demo("handover")
        real, done = write_whole, []

        def fills_up(path, data, *more):
            if len(done) == 2:
                raise OSError(28, "No space left on device")
            done.append(path)
            real(path, data, *more)

        self.asker.files = [self.folder / "out.csv"]
        with mock.patch("eager_lens.desk.pages.handover.page.write_whole", fills_up):
            page._export(CSV)
            self.until(lambda: self.notices and "disk is full" in self.last_notice())
        self.assertIn("2 of ", self.last_notice())
        self.assertIn("out.csv", self.last_notice())

    def test_exports(self):
        page = self.open_demo("handover")
        for kind, start in ((PDF, b"%PDF"), (HTML, b"<!DOCTYPE"), (XLSX, b"PK"), (CSV, b"\xef\xbb\xbfName")):
            path = self.folder / f"out{kind.endings[0]}"
            self.asker.files = [path]
            page._export(kind)
            self.wait_for_work()
            with self.subTest(kind.words):
                self.assertTrue(path.read_bytes().startswith(start))
                self.assertIn("Written", self.last_notice())
        self.assertEqual(len(read_table(self.folder / "out.csv").rows), 37)
        self.assertEqual(
            len(read_table(self.folder / "out-still-open.csv").rows), 1 + len(self.session.assessment.findings)
        )
        self.assertIn("files beside it", self.last_notice())

    def test_an_export_that_cannot_be_written_is_told(self):
        page = self.open_demo("handover")
        self.asker.files = [self.folder / "nowhere" / "out.pdf"]
        page._export(PDF)
        self.wait_for_work()
        self.assertIn("no such file or folder", self.last_notice())

    def test_an_export_can_be_cancelled_and_then_nothing_is_written(self):
        page = self.open_job(job_with([camera(n, address="") for n in range(1, 400)]), "handover")
        path = self.folder / "long.pdf"
        self.asker.files = [path]
        page._export(PDF)
        self.assertTrue(page._exporting.bar.isVisible())
        self.press(page, "Stop")
        self.wait_for_work()
        self.assertFalse(path.exists())
        self.assertIn("long.pdf was not written", self.last_notice())

    def test_nothing_is_exported_without_a_name(self):
        self.open_demo("handover")._export(PDF)
        self.assertEqual(len(self.asker.asked), 1)

    def test_the_cover_is_typed_and_undone(self):
        page = self.open_demo("handover")
        line = page._lines["customer"]
        line.setFocus()
        line.clear()
        QTest.keyClicks(line, "Moor Trust")
        self.key(line, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.customer, "Moor Trust")
        note = page.findChild(QPlainTextEdit)
        note.setFocus()
        QTest.keyClicks(note, "Key under the mat. ")
        line.setFocus()
        QApplication.processEvents()
        self.assertIn("Key under the mat", self.session.job.note)
        self.session.undo()
        self.session.undo()
        self.assertEqual(self.session.job.customer, "Brindlemoor Tramway Trust")

    def test_the_jobs_name_cannot_be_emptied(self):
        page = self.open_demo("handover")
        line = page._lines["name"]
        line.setFocus()
        line.clear()
        self.key(line, Qt.Key.Key_Return)
        self.assertEqual(line.text(), "Brindlemoor Tramway")


if __name__ == "__main__":
    unittest.main()


class Packs(WindowCase):
    def made(self, name, mode="As built", folder=False, saved=True):
        page = self.open_demo("handover")
        if saved:
            self.session.save_as(self.folder / "tram.lens.json")
            sealed_path(self.session.path, ENDING).write_bytes(b"{}")
        page.mode.setCurrentIndex(page.mode.findText(mode))
        page.as_folder.setChecked(folder)
        path = self.folder / name
        self.asker.files = [path]
        self.click(page.pack)
        self.until(lambda: path.exists() and not page._exporting.is_running)
        return path

    def test_the_pack_as_one_file_with_the_passwords_apart(self):
        path = self.made("pack.zip")
        archive = zipfile.ZipFile(path)
        names = set(archive.namelist())
        self.assertLessEqual(
            {"Brindlemoor Tramway as built.pdf", "wiring.svg", "labels.pdf", "tram.log.jsonl", "SHA256SUMS"}, names
        )
        self.assertFalse([name for name in names if "sealed" in name or "password" in name])
        apart = self.folder / "pack passwords.sealed.json"
        self.assertEqual(apart.stat().st_mode & 0o777, 0o600)
        self.assertIn(b"<svg", archive.read("wiring.svg"))
        texts = [one.text for one in self.notices]
        self.assertTrue(any("pack.zip" in text for text in texts), texts)

    @takes_long
    def test_the_pack_as_a_folder_can_be_checked_with_sha256sum(self):
        path = self.made("pack", folder=True)
        summed = subprocess.run(["sha256sum", "-c", "--quiet", "SHA256SUMS"], cwd=path, capture_output=True, text=True)
        self.assertEqual(summed.returncode, 0, summed.stdout + summed.stderr)
        self.assertTrue((path / "tables" / "Cameras.csv").exists())

    def test_the_customers_copy_holds_no_log_and_no_addresses(self):
        names = zipfile.ZipFile(self.made("copy.zip", "Customer's copy")).namelist()
        self.assertFalse([name for name in names if name.endswith((".jsonl", ".lens.json")) or "labels" in name])

    def test_the_preview_follows_the_reader_and_the_paper(self):
        page = self.open_demo("handover")
        self.until(lambda: page.sheets.drawn)
        pages = page.sheets.page_count
        page.mode.setCurrentIndex(page.mode.findText("Customer's copy"))
        self.until(lambda: page.sheets.page_count not in (0, pages))
        before = page._pdf
        page.paper.setCurrentIndex(1 - page.paper.currentIndex())
        self.until(lambda: page._pdf is not before)
        self.assertEqual(pypdfium2.PdfDocument(page._pdf)[0].get_size()[0], 612)

    def test_labels(self):
        page = self.open_demo("handover")
        path = self.folder / "labels.pdf"
        self.asker.files = [path]
        page.fill_label_menu()
        names = [act.text() for act in page._label_menu.actions()]
        self.assertIn("A4, 24 of 70 × 37 mm", names)
        page._label_menu.actions()[names.index("A4, 24 of 70 × 37 mm")].trigger()
        self.until(path.exists)
        self.assertEqual(len(pypdfium2.PdfDocument(path)), 2)

    def test_prices_are_taken_and_charged(self):
        page = self.open_demo("handover")
        page.mode.setCurrentIndex(page.mode.findText("Offer"))
        form = page.charges
        self.assertTrue(form.isVisible())
        blank = self.folder / "prices.csv"
        self.asker.files = [blank, self.write("mine.csv", "What,Price (EUR)\nNetwork cable,0.55\nDrive,149\n")]
        self.click(form.blank)
        self.assertIn("Network plug, crimped", blank.read_text("utf-8-sig"))
        self.click(form.take)
        self.until(lambda: self.session.job.prices)
        self.assertEqual(self.session.job.charges.currency, "EUR")
        form.rate.setFocus()
        QTest.keyClicks(form.rate, "64")
        self.key(form.rate, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.charges.rate_per_h, 64)
        self.assertRegex(form._words.text(), r"^\d+ of \d+ parts have a price")
