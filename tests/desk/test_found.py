"""A scan list in the real window: pasted, compared, taken over, refused."""

from tests.desk.base import WindowCase


class AsFound(WindowCase):
    LIST = (
        "172.22.40.40\t02-5B-1E-00-00-40\n"
        "172.22.40.77\t02-5B-1E-00-00-41\n"
        "172.22.40.42\tAA-BB-CC-DD-EE-FF\n"
        "192.168.7.7\t11-22-33-44-55-66\toffice printer\n"
    )

    def paste(self, text):
        page = self.open_demo("addresses")
        self.press(page, "Compare a scan")
        self.clipboard(text)
        self.press(page, "Paste a scan list")
        return page

    def test_what_does_not_fit_is_told_and_taken_over_as_one_step(self):
        page = self.paste(self.LIST)
        table = page.found.table
        self.assertIn("4 answers: 2 do not match", page.found._words.text())
        row = self.row_named(table, "Hall doors west")
        self.assertEqual(
            (self.cell(table, row, "planned"), self.cell(table, row, "found")), ("172.22.40.41", "172.22.40.77")
        )
        self.assertEqual(self.cell(table, self.row_named(table, "Road one"), "outcome"), "another device")
        table.clearSelection()
        self.press(page, "Apply what was found")
        west = next(camera for camera in self.session.job.cameras if camera.id == "cam-2")
        self.assertEqual(west.address, "172.22.40.77")
        self.assertEqual(self.cell(table, self.row_named(table, "Hall doors west"), "outcome"), "as planned")
        self.session.undo()
        self.assertEqual(self.cell(table, self.row_named(table, "Hall doors west"), "outcome"), "elsewhere")

    def test_garbage_and_the_list_of_another_site_leave_all_as_it_is(self):
        page = self.paste("no addresses here")
        self.assertIn("no answer found", self.last_notice())
        self.assertEqual(page.found.table.records.rowCount(), 0)
        self.clipboard("10.1.1.1\t11-22-33-44-55-66\n")
        self.press(page, "Paste a scan list")
        self.assertIn("another site", self.last_notice())
        self.press(page, "Close")
        self.assertTrue(page.devices.isVisible())

    def test_a_scan_that_is_pasted_as_a_camera_list_is_offered_as_a_scan(self):
        self.open_demo("wiring")
        before = self.session.job
        text = "172.22.40.40 dev eth0 lladdr 02:5b:1e:00:00:40 REACHABLE\n172.22.40.41 dev eth0 FAILED\n"
        self.asker.answers = [2, 0]
        self.window.lists.paste(text)
        self.assertIn("looks like a scan list", self.asker.asked[-1])
        self.assertEqual(self.window.stage, "wiring", "given up")
        self.window.lists.paste(text)
        self.assertEqual(self.window.stage, "addresses")
        page = self.window.pages["addresses"]
        self.assertIn("1 answer", page.found._words.text())
        self.assertIn("no device answered there", page.found._means.text())
        self.assertIs(self.session.job, before)

    def test_a_list_without_mac_addresses_contradicts_nothing(self):
        page = self.paste("".join(f"172.22.40.{n}\n" for n in (40, 41, 42)))
        self.assertIn("3 answers: none contradicts the plan, 3 by address alone", page.found._words.text())

    def test_a_list_is_loaded(self):
        page = self.open_demo("addresses")
        page.show_found()
        self.asker.files = [self.write("scan.csv", "IP;MAC\n172.22.40.40;025b1e000040\n")]
        self.press(page, "Load scan list")
        self.wait_for_work()
        self.assertEqual(
            self.cell(page.found.table, self.row_named(page.found.table, "Hall doors east"), "outcome"), "as planned"
        )
