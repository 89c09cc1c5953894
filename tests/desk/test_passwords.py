"""Device passwords in the real window: sealed, opened, copied for a moment, and nowhere else."""

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.file import job_text, read_job
from eager_lens.core.outgoing.formats.reader import Reader
from eager_lens.core.outgoing.handover.convert import Options, convert
from eager_lens.core.records.sealed.vault import create, open_vault
from eager_lens.desk.trouble import trouble_text
from tests.desk.base import WindowCase
from tests.support import camera, job_with

PASSPHRASE = "four quiet brass lamps"
PLANTED = "Planted-Secret-77"


class Passwords(WindowCase):
    def opened(self):
        page = self.open_demo("bench")
        self.session.save_as(self.folder / "depot.lens.json")
        self.press(page, "Passwords")
        self.view = page.passwords
        for field in (self.view._first, self.view._again):
            field.setFocus()
            QTest.keyClicks(field, PASSPHRASE)
        self.press(page, "Create sealed file")
        self.wait_for_work()
        return page

    def row(self, name):
        self.view.table.setFocus()
        self.view.table.selectRow(self.row_named(self.view.table, name))

    def plant(self, name="Road one"):
        self.row(name)
        self.view._own.setFocus()
        QTest.keyClicks(self.view._own, PLANTED)
        self.key(self.view._own, Qt.Key.Key_Return)

    def test_a_job_without_a_file_is_to_be_saved_first(self):
        page = self.open_demo("bench")
        self.press(page, "Passwords")
        self.assertIn("Save the job first", page.passwords._why.text())
        self.assertFalse(page.passwords._first.isVisible())

    def test_made_for_each_sealed_and_opened_again(self):
        page = self.opened()
        self.press(page, "Generate missing")
        kept = dict(self.view.vault.passwords)
        self.assertEqual(len(set(kept.values())), len(kept))
        self.assertIn("every device has a password", self.view._words.text())
        self.assertEqual(self.cell(self.view.table, 0, "shown"), "••••••••")
        self.press(self.view, "Close")
        self.assertIsNone(self.view.vault)
        self.press(page, "Passwords")
        QTest.keyClicks(self.view._first, "not the passphrase")
        self.key(self.view._first, Qt.Key.Key_Return)
        self.wait_for_work()
        self.assertIn("the file itself is undamaged", self.last_notice())
        self.view._first.clear()
        QTest.keyClicks(self.view._first, PASSPHRASE)
        self.key(self.view._first, Qt.Key.Key_Return)
        self.wait_for_work()
        self.assertEqual(self.view.vault.passwords, kept)

    def test_one_for_the_site_has_its_caution_and_a_way_back(self):
        page = self.opened()
        self.press(page, "Generate missing")
        before = dict(self.view.vault.passwords)
        self.view._one.click()
        self.assertEqual(len(set(self.view.vault.passwords.values())), 1)
        self.assertTrue(self.view._caution.isVisible())
        self.notices[-1].act()
        self.assertEqual(self.view.vault.passwords, before)

    def test_weak_and_differing_ones_are_refused(self):
        page = self.opened()
        self.row("Road one")
        QTest.keyClicks(self.view._own, "short")
        self.key(self.view._own, Qt.Key.Key_Return)
        self.assertIn("at least 8", self.last_notice())
        self.assertEqual(self.view.vault.passwords, {})
        self.assertTrue(page.isVisible())

    def test_two_different_passphrases_make_no_file(self):
        page = self.open_demo("bench")
        self.session.save_as(self.folder / "depot.lens.json")
        self.press(page, "Passwords")
        QTest.keyClicks(page.passwords._first, PASSPHRASE)
        QTest.keyClicks(page.passwords._again, PASSPHRASE + "x")
        self.press(page, "Create sealed file")
        self.assertIn("differ", self.last_notice())
        self.assertFalse((self.folder / "depot.sealed.json").exists())

    def test_the_clipboard_is_cleared(self):
        page = self.opened()
        self.plant()
        self.row("Road one")
        self.press(page, "Copy")
        self.assertEqual(self.clipboard(), PLANTED)
        self.assertTrue(self.view._clear.isActive())
        self.view._clear.timeout.emit()
        self.assertEqual(self.clipboard(), "")
        self.press(page, "Copy")
        self.clipboard("something else")
        self.view.clear_clipboard()
        self.assertEqual(self.clipboard(), "something else")

    def test_a_planted_password_stands_nowhere_but_sealed(self):
        self.opened()
        self.plant()
        self.session.apply(set_fields(["cam-3"], "Rename", name="Road 1"))
        self.session._write_copy()
        self.wait_for_work()
        self.session.save_as(self.folder / "depot.lens.json")
        for ending in (".csv", ".xlsx", ".html", ".pdf"):
            convert(self.folder / "depot.lens.json", self.folder / f"out{ending}", Reader(), Options())
        try:
            raise ValueError(f"{self.view.vault} {PLANTED}")
        except ValueError as error:
            (self.folder / "trouble.txt").write_text(trouble_text(type(error), error.__traceback__), "utf-8")
        files = [path for path in Path(self.folder).rglob("*") if path.is_file()]
        self.assertIn("depot.sealed.json", {path.name for path in files})
        for path in files:
            self.assertNotIn(PLANTED.encode(), path.read_bytes(), path.name)
        self.assertNotIn(PLANTED, repr(self.view.vault))
        self.assertNotIn(PLANTED, "".join(notice.text for notice in self.notices))

    def test_another_job_closes_it(self):
        self.opened()
        self.plant()
        self.window.open_demo()
        self.assertIsNone(self.view.vault)
        self.assertEqual(self.view._first.text(), "")

    def test_a_passphrase_that_is_easy_to_guess_makes_no_file(self):
        page = self.open_demo("bench")
        self.session.save_as(self.folder / "depot.lens.json")
        self.press(page, "Passwords")
        view = page.passwords
        for easy in ("aaaaaaaaaaaaaa", "Brindlemoor2026", "qwertyuiop123"):
            view._first.setText(easy)
            view._again.setText(easy)
            with self.subTest(easy):
                self.assertIn("Too easy", view._strength.text())
                self.press(page, "Create sealed file")
                self.assertIn("Refused", self.last_notice())
                self.assertFalse((self.folder / "depot.sealed.json").exists())
        view._first.setText(PASSPHRASE)
        self.assertEqual(view._strength.text(), "Hard to guess.")

    def test_two_windows_on_one_file_lose_no_password(self):
        page = self.opened()
        self.press(page, "Generate missing")
        mine = dict(self.view.vault.passwords)
        other = open_vault(self.folder / "depot.sealed.json", PASSPHRASE)
        other.change(lambda vault: replace(vault, passwords={**vault.passwords, "cam-1": "Theirs-123456"}))
        other.change(lambda vault: replace(vault, passwords={**vault.passwords, "new-1": "Theirs-654321"}))
        self.row("Road one")
        self.press(page, "Renew selected")
        kept = open_vault(self.folder / "depot.sealed.json", PASSPHRASE).vault.passwords
        self.assertEqual((kept["cam-1"], kept["new-1"]), ("Theirs-123456", "Theirs-654321"))
        for one in mine.keys() - {"cam-1"}:
            self.assertIn(one, kept)

    def test_what_another_window_changed_is_not_replaced_unseen(self):
        page = self.opened()
        self.press(page, "Generate missing")
        self.row("Road one")
        selected = self.view.table.selected_parts()[0].id
        other = open_vault(self.folder / "depot.sealed.json", PASSPHRASE)
        other.change(lambda vault: replace(vault, passwords={**vault.passwords, selected: "Theirs-123456"}))
        self.press(page, "Renew selected")
        self.assertIn("changed in another window", self.last_notice())
        self.assertEqual(self.view.vault.passwords[selected], "Theirs-123456")
        self.press(page, "Renew selected")
        self.assertNotEqual(self.view.vault.passwords[selected], "Theirs-123456")

    def test_it_closes_by_itself_when_left_alone_or_put_away(self):
        page = self.opened()
        self.view._idle.timeout.emit()
        self.assertIsNone(self.view.vault)
        self.assertIn("without input", self.last_notice())
        self.view._first.setText(PASSPHRASE)
        self.press(page, "Open")
        self.wait_for_work()
        self.assertIsNotNone(self.view.vault)
        self.view._idle.stop()
        QTest.keyClick(self.window, Qt.Key.Key_F6)
        self.assertTrue(self.view._idle.isActive())
        self.window.showMinimized()
        QApplication.processEvents()
        self.assertIsNone(self.view.vault)

    def test_another_jobs_passwords_are_asked_about_before_anything_is_written(self):
        other = self.folder / "other.lens.json"
        other.write_text(job_text(job_with([camera(1, name="Theirs")])), "utf-8")
        create(self.folder / "other.sealed.json", PASSPHRASE).change(
            lambda vault: replace(vault, passwords={"cam-1": "Theirs 1!"})
        )
        self.opened()
        self.plant()
        theirs = (self.folder / "other.sealed.json").read_bytes()
        self.asker.files, self.asker.answers = [other, other], [0, 1, 0, 0]
        self.assertFalse(self.window.files.save_as())
        self.assertIn("must not share passwords", self.asker.asked[-1])
        self.assertEqual((self.folder / "other.sealed.json").read_bytes(), theirs)
        self.assertEqual(read_job(other).job.cameras[0].name, "Theirs")
        self.assertTrue(self.window.files.save_as())
        self.assertEqual((self.folder / "other.sealed.json.previous").read_bytes(), theirs)
        kept = open_vault(self.folder / "other.sealed.json", PASSPHRASE).vault.passwords
        self.assertNotIn("Theirs 1!", kept.values())
        self.assertIn(PLANTED, kept.values())

    def test_a_job_without_passwords_does_not_get_those_of_the_job_that_it_replaces(self):
        other = self.folder / "other.lens.json"
        other.write_text(job_text(job_with([camera(1)])), "utf-8")
        create(self.folder / "other.sealed.json", PASSPHRASE)
        self.session.start_job(job_with([camera(1, name="New")]))
        self.asker.files, self.asker.answers = [other], [0, 0]
        self.assertTrue(self.window.files.save_as())
        self.assertFalse((self.folder / "other.sealed.json").exists())
        self.assertTrue((self.folder / "other.sealed.json.previous").exists())

    def test_it_goes_along_under_another_name(self):
        self.opened()
        self.plant()
        self.session.save_as(self.folder / "other.lens.json")
        self.assertIn("copied to other.sealed.json", self.last_notice())
        kept = open_vault(self.folder / "other.sealed.json", PASSPHRASE).vault.passwords
        self.assertIn(PLANTED, kept.values())
