"""Names out of a file show as they are: no tool tip, list, label or message takes them for markup."""

import re
import time
import unittest
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QAbstractTableModel, Qt, QTimer
from PySide6.QtGui import Qt as GuiQt
from PySide6.QtWidgets import QAbstractItemView, QApplication, QLabel, QMenu, QMessageBox, QProgressDialog, QWidget

import eager_lens.desk
from eager_lens.core.incoming.cells import pasted_cell, typed_cell
from eager_lens.core.job.file import ENDING, write_job
from eager_lens.core.job.model import changed
from eager_lens.core.present.stages import STAGES
from eager_lens.desk.asking import DialogAsker
from eager_lens.desk.background import waited_for
from eager_lens.desk.widgets.plain_words import as_label, as_plain
from eager_lens.desk.widgets.record_table import RecordTable
from tests.desk.base import WindowCase
from tests.support import demo_job, takes_long

HOSTILE = "<img src='file:///dev/zero'><b>Gate</b>"
ROWS_LOOKED_AT = 40


def hostile_job():
    """The demo job with markup in every text that a person can type, and one short enough for every heading."""

    def spoiled(part):
        texts = {
            name: HOSTILE
            for name in ("name", "place", "make", "serial", "firmware", "note", "measured_from")
            if name in type(part).model_fields
        }
        return changed(part, **texts)

    job = demo_job()
    lists = {
        name: tuple(map(spoiled, getattr(job, name)))
        for name in ("cameras", "recorders", "network", "power_units", "subnets", "schedules", "exceptions", "rules")
    }
    texts = dict.fromkeys(("name", "customer", "site", "prepared_by", "contact", "note"), HOSTILE)
    return job.model_copy(update={**lists, **texts})


def interpreted(root):
    """Every place below a widget where the toolkit would take a text for markup that holds the hostile tag."""
    found = []

    def look_at(where, text):
        if text and GuiQt.mightBeRichText(text) and "<img" in text:
            found.append(f"{where}: {text[:80]}")

    for widget in [root, *root.findChildren(QWidget)]:
        name = f"{type(widget).__name__} {widget.accessibleName()[:20]}"
        look_at(f"{name} tool tip", widget.toolTip())
        look_at(f"{name} status tip", widget.statusTip())
        look_at(f"{name} what is this", widget.whatsThis())
        if isinstance(widget, QLabel | QMessageBox) and widget.textFormat() != Qt.TextFormat.PlainText:
            look_at(f"{name} text", widget.text())
        if isinstance(widget, QMenu) and widget.toolTipsVisible():
            for action in widget.actions():
                look_at(f"{name} action", action.toolTip())
        if isinstance(widget, QAbstractItemView) and widget.model() is not None:
            model = widget.model()
            for row in range(min(ROWS_LOOKED_AT, model.rowCount())):
                for column in range(model.columnCount() if isinstance(model, QAbstractTableModel) else 1):
                    look_at(f"{name} cell tip", model.index(row, column).data(Qt.ItemDataRole.ToolTipRole))
    return found


class Plain(unittest.TestCase):
    def test_a_text_that_might_be_markup_shows_as_itself(self):
        for text in (HOSTILE, "a\n<b>b", "<p>", "x < y", "R&D", "<!DOCTYPE html>"):
            shown = as_plain(text)
            if GuiQt.mightBeRichText(shown):
                self.assertNotIn("<img", shown.removeprefix("<qt>"))
                self.assertNotIn("<b>", shown)
            else:
                self.assertEqual(shown, text)
        self.assertEqual(as_label("R&D"), "R&&D")

    def test_tool_tips_are_given_in_one_place_only(self):
        for path in Path(eager_lens.desk.__file__).parent.rglob("*.py"):
            if path.name != "plain_words.py":
                text = path.read_text("utf-8")
                self.assertIsNone(re.search(r"\.setToolTip\(|QToolTip\.showText\(", text), path.name)


class EveryPage(WindowCase):
    draws_curves = True

    @takes_long
    def test_no_name_is_interpreted_on_any_page(self):
        self.open_job(hostile_job())
        for stage in STAGES:
            self.window.go(stage)
            page = self.window.pages[stage]
            views = range(len(getattr(page, "_tabs", ())) or 1)
            for view in views:
                if hasattr(page, "show_view"):
                    page.show_view(view)
                QApplication.processEvents()
                self.assertEqual(interpreted(self.window), [], f"{stage}, view {view}")
        self.wait_for_work()
        self.assertEqual(interpreted(self.window), [])

    def test_the_check_itself_sees_one(self):
        label = QLabel(HOSTILE, self.window)
        label.setToolTip(HOSTILE)
        self.assertEqual(len(interpreted(label)), 2)

    def test_start_page_search_notices_and_questions(self):
        path = self.folder / f"{HOSTILE.replace('/', '')[:60]}{ENDING}"
        write_job(path, hostile_job(), None)
        self.window.open_path(path)
        self.session.notice(HOSTILE, action="Undo")
        self.window.header.search.setText("img")
        self.window.header.search.textEdited.emit("img")
        QApplication.processEvents()
        self.assertEqual(interpreted(self.window), [])
        self.session.close()
        self.window.show_start()
        QApplication.processEvents()
        self.assertEqual(interpreted(self.window), [])

    def test_message_boxes_are_plain(self):
        seen = []

        def look(box):
            seen.append((box.textFormat(), box.text()))
            return 0

        with mock.patch.object(QMessageBox, "exec", look):
            DialogAsker(self.window).ask("Title", HOSTILE, ("Yes", "No"), 1)
        self.assertEqual(seen, [(Qt.TextFormat.PlainText, HOSTILE)])


class Clipboard(WindowCase):
    def test_copied_rows_run_nothing_and_come_back_as_they_were(self):
        job = demo_job()
        cameras = (changed(job.cameras[0], name="=1+1", place="a\tb"), *job.cameras[1:])
        page = self.open_job(job.model_copy(update={"cameras": cameras}), "sizing")
        table = next(one for one in page.findChildren(RecordTable) if one.records.row_of(cameras[0].id) is not None)
        table.lead_to(cameras[0].id)
        table.copy()
        self.assertIn("'=1+1\t", self.clipboard())
        self.assertNotIn("a\tb", self.clipboard())
        for text in ("=cmd|' /C calc'!A0", "+1", "-2", "@sum", "'=x", "plain", "it's"):
            with self.subTest(text):
                copied = pasted_cell(text)
                self.assertFalse(copied.startswith(("=", "+", "-", "@")))
                self.assertEqual(typed_cell(copied), text)
        self.assertEqual(pasted_cell("a\tb\nc\0d"), "a b cd")


class Waiting(WindowCase):
    def test_what_is_waited_for_is_told_as_it_is_written(self):
        """A slow machine shows the job's name in a dialog of its own: an image tag in it must not be fetched."""
        formats = []

        def note():
            formats.extend(
                one.textFormat()
                for dialog in QApplication.topLevelWidgets()
                if isinstance(dialog, QProgressDialog) and dialog.isVisible()
                for one in dialog.findChildren(QLabel)
                if "plain <b>name" in one.text()
            )

        QTimer.singleShot(100, note)
        with mock.patch("eager_lens.desk.background.SLOW_AFTER_S", 0.0):
            waited_for(lambda: time.sleep(0.6), "Opening a plain <b>name</b>…")
        self.assertEqual(formats, [Qt.TextFormat.PlainText])
