"""The whole way in the real window: mounted, proved on a telephone, taken in, signed, packed, and held against its anchor."""

import json
import subprocess
import sys
import zipfile

import pypdfium2
from PySide6.QtCore import Qt
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import WebDriverWait

from eager_lens.core.records.event_log.log_file import log_beside
from eager_lens.core.records.event_log.verify import verify
from eager_lens.desk.pages.proof.page import FIELD, LOG, MOUNTING, TESTS
from tests.desk.base import WindowCase
from tests.desk.browser import telephone
from tests.onsite.base import needs


@needs("chromium", "chromedriver")
class FromPlanToSignedPack(WindowCase):
    def press(self, browser, selector):
        found = browser.find_element(By.CSS_SELECTOR, selector)
        browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", found)
        found.click()

    def filled_in(self, page):
        """The sheet, filled in by a colleague on a telephone; the file that it saves."""
        downloads = self.folder / "downloads"
        downloads.mkdir()
        browser = telephone(downloads, self.folder / "profile")
        self.addCleanup(browser.quit)
        browser.get(page.as_uri())
        browser.find_element(By.ID, "by").send_keys("B. Fell")
        browser.execute_script("document.activeElement.blur()")
        self.press(browser, "[data-device=cam-2]")
        self.press(browser, "[data-show=tests]")
        measured = browser.find_element(By.CSS_SELECTOR, "[data-test=motion] input[inputmode]")
        measured.send_keys("100")
        self.press(browser, "[data-test=motion] .enter")
        self.press(browser, "#save")
        WebDriverWait(browser, 20).until(lambda _: list(downloads.glob("*.field.json")))
        return next(downloads.glob("*.field.json"))

    def test_it(self):
        page = self.open_demo("proof")
        self.session.save_as(self.folder / "tram.lens.json")
        page.person.setText("Wren Alderholt")
        page._take_person()
        # Mounted.
        page.show_view(MOUNTING)
        page.mounting.lead_to("cam-4")
        page.mounting.steps.selectAll()
        self.key(page.mounting.steps, Qt.Key.Key_Space)
        self.assertGreater(len(self.session.job.mounting), 70)
        # Proved, at the desk and on a telephone: the walk test that had failed passes, and its snag closes.
        page.show_view(TESTS)
        page.acceptance.lead_to("cam-4")
        self.key(page.acceptance.tests, Qt.Key.Key_Space)
        sheet = self.folder / "sheet.html"
        page.show_view(FIELD)
        self.asker.files = [sheet]
        self.click(page.field.make)
        self.until(lambda: sheet.exists() and not page.field.busy.is_running)
        page.field.read(self.filled_in(sheet))
        self.until(lambda: page.field.found is not None)
        self.click(page.field.take_in)
        self.until(lambda: not page.field.busy.is_running)
        self.assertEqual([snag.state for snag in self.session.job.snags if snag.device == "cam-2"], ["put right"])
        # Signed.
        page.show_view(LOG)
        self.click(page.log.sign)
        page.log.passphrase.setText("under the old signal box")
        self.click(page.log.make_key)
        page.log.passphrase.setText("under the old signal box")
        self.click(page.log.sign_now)
        log = log_beside(self.session.path)
        self.until(lambda: verify(log).signers and not page.log.busy.is_running)
        self.window.files.save()
        # Packed.
        self.window.go("handover")
        handover = self.window.pages["handover"]
        pack = self.folder / "tram as built.zip"
        self.asker.files = [pack]
        self.click(handover.pack)
        self.until(lambda: pack.exists() and not handover._exporting.is_running)
        with zipfile.ZipFile(pack) as archive:
            kept = archive.read("tram.log.jsonl")
            pdf = archive.read("Brindlemoor Tramway as built.pdf")
        document = pypdfium2.PdfDocument(pdf)
        last = document[len(document) - 1].get_textpage().get_text_bounded()
        self.assertIn("Signed with the key", last)
        # The anchor of the paper holds for the log as it goes on, and for no other.
        entries = kept.count(b"\n")
        digits = json.loads(kept.splitlines()[-1])["hash"]
        self.assertIn(digits[:8], last)
        self.session.log.flush()
        self.assertEqual(self.verified(log, f"{entries} {digits}").returncode, 0)
        for at in range(100, len(kept), len(kept) // 25):
            changed = bytearray(kept)
            changed[at] ^= 1
            (self.folder / "changed.jsonl").write_bytes(bytes(changed))
            self.assertFalse(verify(self.folder / "changed.jsonl").whole, at)
        result = self.verified(self.folder / "changed.jsonl", digits)
        self.assertEqual(result.returncode, 1)
        self.assertIn("changed: line", result.stdout)

    def verified(self, log, anchor):
        command = [sys.executable, "-m", "eager_lens", "log", "verify", str(log), "--anchor", anchor]
        return subprocess.run(command, capture_output=True, text=True)
