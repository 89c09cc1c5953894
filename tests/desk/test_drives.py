"""The cheapest drives in the real window: a price list loaded, pasted, refused; a choice put in."""

from tests.desk.base import WindowCase

LIST = "Name;TB;Price (EUR)\nSmall;4;100\nMiddle;8;170\nLarge;16;390\n"


class Drives(WindowCase):
    def shown(self):
        page = self.open_demo()
        self.press(page, "Recorders 2")
        self.wait_for_work()
        return page

    def test_the_need_is_told_and_the_cheapest_put_in_keeps_the_days(self):
        page = self.shown()
        self.assertIn("TB to promise 31 days", page.drives._words.text())
        table = page.drives.table
        self.assertGreaterEqual(table.records.rowCount(), 3)
        table.setFocus()
        table.selectRow(0)
        selected = table.selected_parts()[0]
        self.press(page, "Apply these drives")
        self.wait_for_work()
        recorder = self.session.job.recorders[0]
        put_in = (selected.drives, selected.offer.tb, selected.level)
        self.assertEqual((recorder.drives, recorder.drive_tb, recorder.raid_level), put_in)
        self.assertGreater(self.session.assessment.recorder("rec-1").promised_days, 31)
        self.session.undo()
        self.assertEqual(self.session.job.recorders[0].drives, 3)

    def test_only_with_redundancy(self):
        page = self.shown()
        page.drives._redundant.click()
        parts = [page.drives.table.records.at(row) for row in range(page.drives.table.records.rowCount())]
        self.assertTrue(parts)
        self.assertTrue(all(part.may_fail for part in parts))

    def test_a_list_is_loaded_pasted_and_refused(self):
        page = self.shown()
        self.asker.files = [self.write("drives.csv", LIST)]
        self.press(page, "Load a price list")
        self.wait_for_work()
        self.wait_for_work()
        self.assertEqual([offer.name for offer in self.session.job.drive_offers], ["Small", "Middle", "Large"])
        self.clipboard(LIST + "Odd;many;3\n")
        self.press(page, "Paste price list")
        self.assertIn("Row 5 was left out", self.last_notice())
        before = self.session.job
        self.clipboard("nothing of the kind")
        self.press(page, "Paste price list")
        self.assertIn("no column for", self.last_notice())
        self.assertIs(self.session.job, before)

    def test_how_prices_are_read_is_shown_before_they_count(self):
        page = self.shown()
        self.clipboard("Name;TB;Price (EUR)\nSmall;8;1.299,00\n")
        self.press(page, "Paste price list")
        self.assertIn("1.299,00 is 1299.00", self.asker.asked[-1])
        self.assertNotIn(1299, [offer.price for offer in self.session.job.drive_offers])
        self.asker.answers = [0]
        self.press(page, "Paste price list")
        self.assertEqual([offer.price for offer in self.session.job.drive_offers], [1299])
        self.wait_for_work()

    def test_nothing_fits_the_bays(self):
        page = self.shown()
        self.clipboard("Name;TB;Price\nTiny;1;10\n")
        self.press(page, "Paste price list")
        self.wait_for_work()
        self.assertIn("no drives on the list give that in 4 bays", page.drives._words.text())
