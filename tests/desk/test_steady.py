"""What lies under the pointer stays there: selecting a row moves no row, and a notice covers none."""

from unittest import mock

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from eager_lens.core.present.stages import STAGES
from eager_lens.desk.shell import Shell
from eager_lens.desk.widgets.page import TabbedPage
from eager_lens.desk.widgets.record_table import RecordTable
from tests.desk.base import SessionCase, WindowCase
from tests.support import takes_long

LOOKED_AT = 6


class Steady(WindowCase):
    paints = True

    def tables(self):
        """Each table that comes into sight on some page, with where it is."""
        for stage in STAGES:
            self.window.go(stage)
            page = self.window.pages[stage]
            for at in range(page._stack.count() if isinstance(page, TabbedPage) else 1):
                if isinstance(page, TabbedPage):
                    page.show_view(at)
                self.session.select(())
                self.wait_for_work()
                QApplication.processEvents()
                for table in page.findChildren(RecordTable):
                    if table.isVisible() and table.records.rowCount():
                        yield f"{stage}, view {at}, {type(table.parentWidget()).__name__}", table

    def place(self, table, row):
        index = table.records.index(row, 0)
        rect = table.visualRect(index)
        return table.viewport().mapToGlobal(rect.center()) if rect.isValid() else None

    def moved(self):
        moved = []
        for where, table in self.tables():
            for row in range(min(LOOKED_AT, table.records.rowCount())):
                before = self.place(table, row)
                if before is None or not table.viewport().rect().contains(table.viewport().mapFromGlobal(before)):
                    continue
                # The second and third as somebody adds to what is selected.
                keys = Qt.KeyboardModifier.ControlModifier if row in (1, 2) else Qt.KeyboardModifier.NoModifier
                spot = table.viewport().mapFromGlobal(before)
                QTest.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, keys, spot)
                QApplication.processEvents()
                self.wait_for_work()
                after = self.place(table, row)
                if after is None or (after - before).manhattanLength() > 1:
                    moved.append(f"{where}: row {row} from {before.toTuple()} to {after.toTuple() if after else None}")
                    break
        return moved

    def test_selecting_moves_no_row(self):
        self.open_demo()
        self.assertEqual(self.moved(), [])

    @takes_long
    def test_nor_in_a_small_window(self):
        self.window.resize(1024, 700)
        self.open_demo()
        self.assertEqual(self.moved(), [])

    @takes_long
    def test_a_notice_covers_no_row(self):
        texts = ("Saved: /home/ash/jobs/depot.lens.json", "Long words of what went wrong and what to do next. " * 6)
        for size in ((1280, 800), (1024, 700)):
            self.window.resize(*size)
            self.open_demo()
            for where, table in self.tables():
                for text in texts:
                    self.session.notice(text, needs=True, action="Undo", act=lambda: None)
                    QApplication.processEvents()
                    bar = self.window.notices
                    self.assertTrue(bar.isVisible())
                    shown = QRect(bar.mapToGlobal(QPoint(0, 0)), bar.size())
                    rows = QRect(table.viewport().mapToGlobal(QPoint(0, 0)), table.viewport().size())
                    self.assertFalse(shown.intersects(rows), (where, size, text[:20], shown, rows))
                    self.assertTrue(self.window.rect().contains(bar.geometry()), (size, bar.geometry()))


class FirstWindow(SessionCase):
    def test_it_fits_a_small_screen_with_its_frame(self):
        """On a screen of 1280x800 the strip at the bottom was cut off."""
        for screen, wanted in ((QSize(1280, 800), (1272, 756)), (QSize(1920, 1080), (1280, 800))):
            primary = mock.Mock()
            primary.availableSize.return_value = screen
            with mock.patch("eager_lens.desk.shell.QGuiApplication.primaryScreen", return_value=primary):
                shell = Shell("x", QWidget)
            self.assertEqual(shell.size().toTuple(), wanted)
            shell.deleteLater()
