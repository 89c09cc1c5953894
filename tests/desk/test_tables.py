"""Tables: editing one and many, refusing what cannot be, copy and paste, groups, and Qt's own rules for models."""

import unittest

from PySide6.QtCore import QItemSelectionModel, Qt
from PySide6.QtTest import QAbstractItemModelTester, QTest

from eager_lens.core.job.edits import set_fields
from eager_lens.desk.widgets.record_model import CellRole, GroupRow
from eager_lens.desk.widgets.record_table import RecordTable
from eager_lens.desk.widgets.scene_pictures import scene_icon
from tests.desk.base import WindowCase
from tests.support import camera, job_with, recorder


class Editing(WindowCase):
    def setUp(self):
        super().setUp()
        cameras = [camera(1, place="Hall"), camera(2, place="Hall"), camera(3, place="Yard")]
        self.page = self.open_job(job_with(cameras))
        self.table = self.page.cameras

    def select_rows(self, *rows):
        self.table.clearSelection()
        for row in rows:
            index = self.table.records.index(row, 0)
            how = QItemSelectionModel.SelectionFlag.Select | QItemSelectionModel.SelectionFlag.Rows
            self.table.selectionModel().select(index, how)

    def rates(self):
        return [camera.fps for camera in self.session.job.cameras]

    def test_one_cell(self):
        self.put_cell(self.table, 1, "fps", "8")
        self.assertEqual(self.rates(), [8, 12, 12])
        self.assertEqual(self.session.undo_label, "Set frame rate 8 fps on Camera 1")

    def test_several_rows_at_once_are_one_step(self):
        index = self.table.records.index(1, 2)
        self.table.setCurrentIndex(index)
        self.select_rows(1, 2, 4)
        self.table.records.setData(index, "6 fps")
        self.assertEqual(self.rates(), [6, 6, 6])
        self.assertEqual(self.session.undo_label, "Set frame rate 6 fps on 3 devices")
        self.session.undo()
        self.assertEqual(self.rates(), [12, 12, 12])

    def test_a_name_or_an_address_is_given_to_one_device_only(self):
        index = self.table.records.index(1, 0)
        self.table.setCurrentIndex(index)
        self.select_rows(1, 2, 4)
        self.table.records.setData(index, "Gate")
        self.assertEqual([c.name for c in self.session.job.cameras], ["Gate", "Camera 2", "Camera 3"])

    def test_the_menu_of_a_cell_offers_what_can_be_done(self):
        column = next(at for at, c in enumerate(self.table.records.columns) if c.id == "rate")
        menu = self.table.cell_menu(self.table.records.index(1, column))
        words = [action.text().split("\t")[0] for action in menu.actions()]
        self.assertEqual(
            words, ["Edit", "Workings", "Find a fault…", "Columns and order", "Copy rows", "Paste", "Remove"]
        )
        menu.actions()[1].trigger()
        self.assertIn("Bit rate, Camera 1", self.window.side._working._title.text())

    def test_what_cannot_be_is_told_and_changes_nothing(self):
        for text in ("0", "-3", "fast", "1e9"):
            with self.subTest(text):
                self.put_cell(self.table, 1, "fps", text)
                self.assertEqual(self.rates(), [12, 12, 12])
                self.assertTrue(self.notices[-1].needs)
                self.assertTrue(self.window.notices.isVisible())

    def test_a_rate_that_is_typed_is_entered_until_it_is_said_when_it_was_measured(self):
        at = next(n for n, column in enumerate(self.table.records.columns) if column.id == "rate")
        self.assertTrue(self.table.records.index(1, at).data(CellRole.ASSUMED))
        self.put_cell(self.table, 1, "rate", "3,5")
        self.assertEqual(self.session.job.cameras[0].measured_mbps, 3.5)
        self.assertTrue(self.table.records.index(1, at).data(CellRole.ASSUMED))
        self.put_cell(self.table, 1, "measured_when", "by night")
        self.assertFalse(self.table.records.index(1, at).data(CellRole.ASSUMED))
        self.put_cell(self.table, 1, "measured_min", "120 min")
        self.assertEqual(
            (self.session.job.cameras[0].measured_min, self.cell(self.table, 1, "measured_min")), (120, "120")
        )
        self.put_cell(self.table, 1, "rate", "")
        self.assertIsNone(self.session.job.cameras[0].measured_mbps)

    def test_a_list_offers_its_choices(self):
        column = next(at for at, c in enumerate(self.table.records.columns) if c.id == "codec")
        self.assertEqual(self.table.records.index(1, column).data(CellRole.CHOICES), ["H.264", "H.265", "MJPEG"])
        self.put_cell(self.table, 1, "codec", "h264")
        self.assertEqual(self.session.job.cameras[0].codec, "h264")

    def test_copy_gives_rows_with_headings(self):
        self.select_rows(0, 1, 2)
        self.table.setFocus()
        self.key(self.table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
        lines = self.clipboard().split("\n")
        self.assertEqual(lines[0].split("\t")[:3], ["Camera", "Resolution, px", "fps"])
        self.assertEqual([line.split("\t")[0] for line in lines[1:]], ["Camera 1", "Camera 2"])

    def test_paste_a_block_is_one_step(self):
        self.table.setCurrentIndex(self.table.records.index(1, 1))
        self.table.setFocus()
        self.clipboard("1280x720\t5\n2688×1520\t6,5\n")
        self.key(self.table, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
        cameras = self.session.job.cameras
        self.assertEqual([(c.width_px, c.fps) for c in cameras], [(1280, 5), (2688, 6.5), (1920, 12)])
        self.session.undo()
        self.assertEqual(self.rates(), [12, 12, 12])

    def test_a_block_with_one_bad_cell_changes_nothing(self):
        self.table.setCurrentIndex(self.table.records.index(1, 2))
        self.table.paste("5\nfast\n")
        self.assertEqual(self.rates(), [12, 12, 12])
        self.assertIn("fast", self.last_notice())

    def test_one_value_goes_into_all_chosen_rows(self):
        self.table.setCurrentIndex(self.table.records.index(1, 2))
        self.select_rows(1, 2)
        self.table.paste("4")
        self.assertEqual(self.rates(), [4, 4, 12])

    def test_a_block_longer_than_the_table_is_told(self):
        self.table.setCurrentIndex(self.table.records.index(4, 2))
        self.table.paste("5\n6\n7")
        self.assertIn("include the headings", self.last_notice())

    def test_a_list_with_headings_is_imported_instead(self):
        self.table.setCurrentIndex(self.table.records.index(1, 0))
        self.table.paste("Name\tIP\nGate\t172.22.40.90\nDoor\t172.22.40.91\n")
        view = self.window.stack.currentWidget()
        self.press(view, "Import 2 cameras")
        self.assertEqual([c.name for c in self.session.job.cameras[3:]], ["Gate", "Door"])

    def test_delete_takes_out_and_undo_brings_back(self):
        self.select_rows(1)
        self.table.setFocus()
        self.key(self.table, Qt.Key.Key_Delete)
        self.assertEqual(len(self.session.job.cameras), 2)
        self.session.undo()
        self.assertEqual(len(self.session.job.cameras), 3)

    def test_groups_fold_by_key_and_carry_sums(self):
        self.assertIsInstance(self.table.records.at(0), GroupRow)
        self.assertIn("Hall · 2", self.table.records.index(0, 0).data())
        self.table.setCurrentIndex(self.table.records.index(0, 0))
        self.table.setFocus()
        self.key(self.table, Qt.Key.Key_Left)
        self.assertEqual(self.table.records.rowCount(), 3)
        self.key(self.table, Qt.Key.Key_Right)
        self.assertEqual(self.table.records.rowCount(), 5)

    def test_a_chosen_group_stands_for_its_cameras(self):
        self.select_rows(0)
        self.assertEqual([part.id for part in self.table.selected_parts()], ["cam-1", "cam-2"])

    def test_the_choice_follows_to_another_page(self):
        self.select_rows(4)
        self.assertEqual(self.session.selected, ("cam-3",))
        self.window.go("bench")
        self.assertEqual([part.id for part in self.window.pages["bench"].cameras.selected_parts()], ["cam-3"])

    def test_a_working_opens_from_a_worked_out_cell(self):
        column = next(at for at, c in enumerate(self.table.records.columns) if c.id == "gb")
        self.table.setCurrentIndex(self.table.records.index(1, column))
        self.table.setFocus()
        self.key(self.table, Qt.Key.Key_Return)
        self.assertIn("Stored, Camera 1", self.window.side._working._title.text())

    def test_a_fault_is_marked_in_its_row(self):
        self.session.apply(set_fields(["cam-1"], "x", registered=()))
        self.assertIsNotNone(self.table.records.index(1, 0).data(CellRole.MARK))
        self.assertIsNone(self.table.records.index(2, 0).data(CellRole.MARK))

    def test_recorders_are_edited_in_their_own_tab(self):
        self.press(self.page, "Recorders 1")
        self.put_cell(self.page.recorders, 0, "drives", "3")
        self.put_cell(self.page.recorders, 0, "reserve_share", "10 %")
        got = self.session.job.recorders[0]
        self.assertEqual((got.drives, got.reserve_share), (3, 0.1))


class Models(WindowCase):
    def test_qt_finds_nothing_wrong_with_the_models(self):
        self.open_job(job_with([camera(n, place=f"P{n % 3}") for n in range(1, 12)], recorders=[recorder(1)]))
        testers = []
        for stage in ("wiring", "sizing", "addresses", "bench", "schedule", "motion", "proof"):
            self.window.go(stage)
            for table in self.window.pages[stage].findChildren(RecordTable):
                mode = QAbstractItemModelTester.FailureReportingMode.Fatal
                testers.append(QAbstractItemModelTester(table.records, mode))
            self.session.apply(set_fields(["cam-1"], "x", place="P2", fps=3))
            self.window.run("add-camera")
            self.session.undo()
            QTest.qWait(1)
        self.assertGreater(len(testers), 8)


if __name__ == "__main__":
    unittest.main()


class Scenes(WindowCase):
    def test_each_kind_of_view_is_chosen_by_its_picture(self):
        page = self.open_demo()
        columns = [column.id for column in page.cameras.records.columns]
        row = self.row_named(page.cameras, "Road one")
        page.cameras.setCurrentIndex(page.cameras.records.index(row, columns.index("scene")))
        page.cameras.setFocus()
        self.key(page.cameras, Qt.Key.Key_F2)
        editor = self.window.focusWidget()
        pictures = [editor.itemIcon(at).pixmap(60, 34).toImage() for at in range(editor.count())]
        self.assertEqual(len(pictures), 10)
        self.assertTrue(all(not picture.isNull() for picture in pictures))
        self.assertEqual(len({bytes(picture.constBits()) for picture in pictures}), 10)
        self.key(editor, Qt.Key.Key_Escape)
        self.assertTrue(scene_icon("no such view").isNull())
