"""The field sheet: made in the window, filled in on a telephone's browser, taken in again."""

import json

from PySide6.QtGui import QColor, QImage
from PySide6.QtTest import QTest
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import WebDriverWait

from eager_lens.core.job.proof import Check
from eager_lens.core.job.proving import latest_checks, record_checks
from eager_lens.core.records.event_log.log_file import log_beside
from eager_lens.core.records.event_log.photos import photos_beside
from eager_lens.core.records.event_log.verify import verify
from eager_lens.core.records.field_sheet.content import sheet_data
from eager_lens.core.records.field_sheet.saved import read_field_file
from eager_lens.desk.pages.proof.page import FIELD
from tests.desk.base import WindowCase
from tests.desk.browser import telephone
from tests.onsite.base import needs
from tests.support import camera, demo_job, job_with

LONG = "A very long name of a camera that somebody gave it, north-west corner of the yard, under the eaves " * 2


class FieldCase(WindowCase):
    def opened(self, job, saved=True):
        page = self.open_job(job, "proof")
        if saved:
            self.session.save_as(self.folder / "yard.lens.json")
        page.show_view(FIELD)
        return page.field

    def made(self, view, name="sheet.html"):
        path = self.folder / name
        view.asker.files = [path]
        self.click(view.make)
        self.until(lambda: path.exists() and not view.busy.is_running)
        return path

    def taken(self, view, path):
        view.read(path)
        self.until(lambda: not view.busy.is_running)


@needs("chromium", "chromedriver")
class OnATelephone(FieldCase):
    def browser(self, name="one"):
        downloads = self.folder / f"downloads-{name}"
        downloads.mkdir()
        browser = telephone(downloads, self.folder / f"profile-{name}")
        self.addCleanup(browser.quit)
        return browser, downloads

    def find(self, browser, selector):
        return browser.find_element(By.CSS_SELECTOR, selector)

    def press(self, browser, selector):
        found = self.find(browser, selector)
        browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", found)
        found.click()

    def named(self, browser, page, name):
        browser.get(page.as_uri())
        field = self.find(browser, "#by")
        field.send_keys(name)
        browser.execute_script("document.activeElement.blur()")

    def saved(self, browser, downloads):
        self.press(browser, "#save")
        WebDriverWait(browser, 20).until(lambda _: list(downloads.glob("*.field.json")))
        (path,) = downloads.glob("*.field.json")
        return path

    def photo(self):
        image = QImage(3000, 2000, QImage.Format.Format_RGB32)
        image.fill(QColor("steelblue"))
        path = self.folder / "label.jpg"
        self.assertTrue(image.save(str(path)))
        return path

    def test_from_the_window_to_the_telephone_and_back(self):
        view = self.opened(demo_job())
        browser, downloads = self.browser()
        page = self.made(view)
        self.assertLess(page.stat().st_size, 400_000)
        self.named(browser, page, "B. Fell")
        self.press(browser, "[data-device=cam-4]")
        self.press(browser, "[data-show=steps]")
        self.press(browser, "[data-step='cam-4/gland'] .tick")
        self.press(browser, "[data-step='cam-4/film'] .skip")
        self.press(browser, "[data-show=tests]")
        self.press(browser, "[data-test=picture] .passed")
        self.press(browser, "[data-test=label] .passed")
        self.find(browser, "[data-test=label] input[type=file]").send_keys(str(self.photo()))
        WebDriverWait(browser, 20).until(lambda one: one.find_elements(By.CSS_SELECTOR, "[data-test=label] img"))
        self.find(browser, "[data-test=power] input[inputmode]").send_keys("99,5")
        self.press(browser, "[data-test=power] .enter")
        self.assertIn("✗ failed: 99.5 W", self.find(browser, "[data-test=power]").text)
        self.press(browser, "[data-show=snags]")
        self.find(browser, "#snag-text").send_keys("Hedge in the view")
        self.find(browser, "#snag-owner").send_keys("gardener")
        self.press(browser, "#snag-add")
        self.assertEqual([one for one in browser.get_log("browser") if one["level"] == "SEVERE"], [])
        path = self.saved(browser, downloads)
        (photo,) = read_field_file(path).photos.values()
        self.assertLess(len(photo), 200_000, "a photo is reduced on the telephone")
        self.taken(view, path)
        self.assertIn("B. Fell: 3 tests, 2 mounting steps, 1 snag and 1 photo", view._words.text())
        self.click(view.take_in)
        self.until(lambda: not view.busy.is_running)
        job = self.session.job
        latest = latest_checks(job)
        self.assertEqual((latest["cam-4", "power"].measured, latest["cam-4", "power"].outcome), (99.5, "failed"))
        self.assertEqual(len(latest["cam-4", "label"].photos), 1)
        self.assertEqual(
            {snag.text for snag in job.snags if snag.device == "cam-4"}, {"Power drawn failed", "Hedge in the view"}
        )
        self.assertEqual({tick.step: tick.outcome for tick in job.mounting}["cam-4/film"], "skipped")
        self.session.log.flush()
        found = verify(log_beside(self.session.path), photos=photos_beside(self.session.path))
        self.assertTrue(found.whole, found.troubles)
        self.assertEqual(len(found.photos), 1)
        self.session.undo()
        self.assertNotIn(("cam-4", "power"), latest_checks(self.session.job))

    def test_it_goes_on_after_the_browser_was_closed_and_fits_its_screen(self):
        view = self.opened(job_with([camera(1, name=LONG.strip()[:190], place="x" * 200), camera(2)]))
        browser, _ = self.browser()
        page = self.made(view)
        self.named(browser, page, "B. Fell")
        for selector in (
            "[data-device=cam-1]",
            "[data-show=tests]",
            "[data-test=picture] .failed",
            "[data-show=snags]",
        ):
            self.press(browser, selector)
            wide = browser.execute_script("return document.documentElement.scrollWidth")
            self.assertLessEqual(wide, 390, selector)
        small = browser.execute_script(
            "return [...document.querySelectorAll('button')].filter(one => one.offsetHeight && one.offsetHeight < 44).length"
        )
        self.assertEqual(small, 0, "a thumb in a glove needs room")
        browser.get("about:blank")
        alert = browser.switch_to.alert if browser.current_url != "about:blank" else None
        if alert is not None:
            alert.accept()
        browser.get(page.as_uri())
        self.assertIn("Went on", self.find(browser, "#state").text)
        self.press(browser, "[data-device=cam-1]")
        self.assertIn("✗ failed", self.find(browser, "[data-test=picture]").text)

    def test_without_a_name_nothing_is_recorded(self):
        page = self.made(self.opened(job_with([camera(1)])))
        browser, _ = self.browser()
        browser.get(page.as_uri())
        self.press(browser, "[data-device=cam-1]")
        self.press(browser, "[data-show=tests]")
        self.press(browser, "[data-test=picture] .passed")
        self.assertIn("Your name first", self.find(browser, "#state").text)
        self.assertEqual(browser.execute_script("return filled.checks.length"), 0)

    def test_it_asks_nobody_on_any_network(self):
        page = self.made(self.opened(demo_job()))
        browser, _ = self.browser()
        browser.get(page.as_uri())
        self.find(browser, "[data-device=cam-36]")
        asked = browser.execute_script("return performance.getEntriesByType('resource').map(one => one.name)")
        self.assertEqual(asked, [])


class TakingIn(FieldCase):
    def saved(self, view, by, outcome="failed", at="2026-11-20T12:00:00"):
        """A file as the sheet saves it, without a browser."""
        data = sheet_data(self.session.assessment, "2026-11-20T08:00", (), "00112233aabbccdd")
        check = {"id": f"c-{by}", "device": "cam-1", "check": "label", "outcome": outcome, "by": by, "at": at}
        document = {
            "format": data["format"],
            "version": data["version"],
            "sheet": data["id"],
            "job": data["job"],
            "made_at": data["made_at"],
            "saved_at": at,
            "by": by,
            "base": data["base"],
            "checks": [check],
        }
        return self.write(f"{by}.field.json", json.dumps(document))

    def test_what_two_say_differently_is_decided_side_by_side(self):
        view = self.opened(job_with([camera(1)]))
        path = self.saved(view, "B. Fell")
        mine = Check(device="cam-1", check="label", outcome="passed", by="WA", at="2026-11-20T11:00:00")
        self.session.apply(record_checks([mine]))
        self.taken(view, path)
        self.assertEqual(view.table.records.rowCount(), 1)
        self.assertIn("1 difference to decide", view._words.text())
        self.assertFalse(view.take_in.isEnabled())
        row = view.table.records.at(0)
        self.assertIn("passed · WA", row.conflict.in_job)
        self.assertIn("failed · B. Fell", row.conflict.on_sheet)
        self.click(view.as_job)
        self.click(view.take_in)
        self.until(lambda: not view.busy.is_running)
        self.assertEqual([one.outcome for one in self.session.job.checks], ["failed", "passed"])
        self.assertFalse(view._decision.isVisible())

    def test_what_is_no_sheet_is_told_and_changes_nothing(self):
        view = self.opened(job_with([camera(1)]))
        self.taken(view, self.write("shopping.json", '{"milk": 2}'))
        self.assertIn("shopping.json", self.last_notice())
        self.assertIsNone(view.found)

    def test_another_job_has_nothing_waiting(self):
        view = self.opened(job_with([camera(1)]))
        self.taken(view, self.saved(view, "B. Fell"))
        self.assertIsNotNone(view.found)
        self.session.start_job(job_with([camera(2)]))
        QTest.qWait(10)
        self.assertIsNone(view.found)
