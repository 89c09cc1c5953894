"""What is over leaves nothing behind: another job, what popped up, widgets that are gone. And nothing is laid out for ever."""

import gc
import weakref
from itertools import product

import shiboken6
from PySide6.QtCore import QEvent, QPoint, QTimer
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtWidgets import QApplication, QListView, QWidget

from eager_lens.core.job.model import changed
from eager_lens.core.present.stages import STAGES
from eager_lens.desk.asking import DialogAsker
from eager_lens.desk.pages.bench.channels.view import ChannelsView
from eager_lens.desk.theme import look
from eager_lens.desk.widgets.basics import Choice
from tests.desk.base import SessionCase, WindowCase
from tests.support import camera, demo_job, job_with, one_in


def swept():
    """Let what is to be deleted go."""
    QApplication.processEvents()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


class AnotherJob(WindowCase):
    def test_of_the_job_before_nothing_is_kept_by_pages_out_of_sight(self):
        job = job_with([camera(number) for number in range(1, 9)])
        self.open_job(job, STAGES[0])
        for stage in STAGES:
            self.window.go(stage)
            for _ in range(6):
                self.window.pages[stage].next_view(1)
                QApplication.processEvents()
        self.window.go(STAGES[0])
        self.wait_for_work()
        before, job_before = weakref.ref(self.session.assessment), weakref.ref(job)
        other = changed(job, name="Another")
        del job
        self.session.start_job(other)

        def is_gone():
            # Work of a page may have been waiting for its turn.
            self.wait_for_work()
            swept()
            gc.collect()
            return before() is None and job_before() is None

        self.until(is_gone, 30)

    def test_a_page_shows_the_other_job_when_it_comes_into_sight(self):
        self.open_job(job_with([camera(1, name="Gate")]), "sizing")
        self.window.go("wiring")
        self.session.start_job(job_with([camera(1, name="Yard")]))
        self.window.go("sizing")
        table = self.window.pages["sizing"].cameras
        self.assertEqual(self.cell(table, table.records.row_of("cam-1"), "name"), "Yard")


class PoppedUp(WindowCase):
    def left_by(self, act):
        """The windows of their own, menus too, that are left when something was done four times."""
        act()
        swept()
        before = len(QApplication.topLevelWidgets())
        for _ in range(4):
            act()
            swept()
        return len(QApplication.topLevelWidgets()) - before

    def close(self):
        (QApplication.activePopupWidget() or QApplication.activeModalWidget()).close()

    def test_menus_and_dialogs_are_gone_when_they_are_closed(self):
        table = self.open_demo("sizing").cameras
        place = table.visualRect(table.records.index(0, 0)).center()

        def cell():
            event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, place, table.viewport().mapToGlobal(place))
            QApplication.sendEvent(table.viewport(), event)
            self.close()

        def heading():
            table.column_sets._ask(QPoint(5, 5))
            self.close()

        def shortcuts():
            self.window.run("shortcuts")
            self.close()

        def question():
            QTimer.singleShot(0, self.window, self.close)
            self.assertEqual(DialogAsker(self.window).ask("Save?", "Save it?", ("Save", "Leave"), 1), 1)

        for act in (cell, heading, shortcuts, question):
            with self.subTest(act.__name__):
                self.assertEqual(self.left_by(act), 0)

    def test_the_list_of_keys_is_no_larger_than_the_window(self):
        self.open_demo("sizing")
        self.window.resize(860, 560)
        self.window.run("large")
        self.window.run("shortcuts")
        dialog = QApplication.activeModalWidget()
        self.assertTrue(self.window.rect().contains(dialog.rect()), dialog.size())
        self.close()


class Gone(WindowCase):
    def test_what_was_dressed_and_is_gone_is_not_kept(self):
        def kept():
            gc.collect()
            return sum(type(one) is QListView and not shiboken6.isValid(one) for one in gc.get_objects())

        self._bare.stop()
        before = kept()
        holder = QWidget(self.window)
        for _ in range(5):
            choice = Choice(holder)
            choice.addItems(["a", "b"])
            choice.view()
            look.apply_style(holder)
            choice.deleteLater()
            del choice
            swept()
            holder.setStyleSheet("")
        self.assertEqual(kept(), before)


class LaidOut(SessionCase):
    def test_channels_that_fit_only_while_no_bar_is_in_sight(self):
        # One tile fewer fits beside the bar, and then the bar is needed: laid out by the width of before, that went round
        # until the process ended.
        view = ChannelsView(self.session)
        self.addCleanup(view.deleteLater)
        look.apply_style(view)
        view.show()
        job = demo_job()
        self.session.start_job(changed(job, recorders=(changed(job.recorders[0], id="rec-1", channels=16),)))
        view.show_assessment(self.session.assessment)
        for before, after in one_in(5, product((792, 600, 400), (501, 400, 300, 260, 350, 450, 550, 620))):
            for narrow, wide in ((816, 888), (816, 890), (640, 720), (870, 890)):
                for width, height in ((narrow, before), (wide, after), (narrow, after)):
                    view.resize(width, height)
                    QApplication.processEvents()
        (_, board) = view.boards["rec-1"]
        self.assertEqual(board.height(), board.heightForWidth(board.width()))
