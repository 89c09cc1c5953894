"""Listing, importing, sizing and addressing: each page's main task, by mouse and by keyboard."""

import unittest

from PySide6.QtCore import QRect, Qt
from PySide6.QtTest import QTest

from eager_lens.core.job.edits import set_each, set_retention
from eager_lens.core.job.model import EMPTY_JOB, Retention
from eager_lens.core.options.curves import days_curve
from eager_lens.core.progress import finished
from eager_lens.core.units import days_figure
from eager_lens.desk.pages.addresses.mosaic import Mosaic, MosaicData, Tenant
from tests.desk.base import WindowCase
from tests.support import camera, codes, finding_of, job_with, lan


class Import(WindowCase):
    LIST = "Camera;Location;IP;FPS;GOP (frames);Where\nGate;Yard;172.22.40.90;12,5;25;N\nDoor;Hall;300.1.1.1;10;20;S\n"

    def test_from_a_file_to_cameras_and_back_by_one_undo(self):
        self.asker.files = [self.write("list.csv", self.LIST)]
        self.window.run("import")
        self.wait_for_work()
        view = self.window.stack.currentWidget()
        self.assertIn("1 camera can be imported; 1 row skipped", view._verdict.text())
        self.assertIn("Row 3, IP", view._problems.toPlainText())
        self.press(view, "Import 1 camera")
        made = self.session.job.cameras[0]
        self.assertEqual((made.name, made.fps, made.key_frame_s), ("Gate", 12.5, 2))
        self.assertEqual(self.session.selected, (made.id,))
        self.shortcut(Qt.Key.Key_Z)
        self.assertEqual(self.session.job.cameras, ())

    def test_a_wrong_guess_is_put_right(self):
        self.window.lists.read(self.write("list.csv", self.LIST))
        self.wait_for_work()
        view = self.window.stack.currentWidget()
        box = view._grid.cellWidget(0, 5)
        self.assertEqual(box.currentData(), "")
        box.setCurrentIndex(box.findData("note"))
        box.activated.emit(box.currentIndex())
        self.press(view, "Import 1 camera")
        self.assertEqual(self.session.job.cameras[0].note, "N")

    def test_two_hundred_columns_have_their_lists_where_somebody_looks(self):
        self.open_job(job_with([camera(1)]))
        self.clipboard("\n".join("\t".join(f"{at} {line}" for at in range(200)) for line in range(9)))
        self.window.run("paste-list")
        self.wait_for_work()
        grid = self.window.stack.currentWidget()._grid

        def made():
            return sum(grid.cellWidget(0, at) is not None for at in range(200))

        self.assertIsNotNone(grid.cellWidget(0, 0))
        self.assertLess(made(), 30)
        grid.horizontalScrollBar().setValue(grid.horizontalScrollBar().maximum())
        self.assertIsNotNone(grid.cellWidget(0, 199))
        self.assertLess(made(), 60)

    def test_rows_left_out_can_be_copied_put_right_and_pasted(self):
        self.window.lists.read(self.write("list.csv", self.LIST))
        self.wait_for_work()
        view = self.window.stack.currentWidget()
        self.press(view, "Copy the skipped rows")
        self.press(view, "Import 1 camera")
        self.clipboard(self.clipboard().replace("300.1.1.1", "172.22.40.91"))
        self.window.run("paste-list")
        self.press(self.window.stack.currentWidget(), "Import 1 camera")
        self.assertEqual([c.name for c in self.session.job.cameras], ["Gate", "Door"])

    def test_cancel_changes_nothing(self):
        self.open_job(job_with([camera(1)]))
        self.window.lists.read(self.write("list.csv", self.LIST))
        self.wait_for_work()
        self.press(self.window.stack.currentWidget(), "Cancel")
        self.assertEqual(len(self.session.job.cameras), 1)
        self.assertEqual(self.session.undo_label, "")
        self.assertIs(self.window.stack.currentWidget(), self.window.pages["sizing"])

    def test_what_is_no_list_is_told(self):
        path = self.folder / "broken.xlsx"
        path.write_bytes(b"PK\x03\x04 nothing")
        self.window.open_path(path)
        self.wait_for_work()
        self.assertIn("cannot be read as an XLSX", self.last_notice())
        self.clipboard("")
        self.open_job(EMPTY_JOB)
        self.window.run("paste-list")
        self.assertIn("clipboard has no list", self.last_notice())


class Sizing(WindowCase):
    draws_curves = True

    def test_views_are_made_when_they_are_looked_at_and_are_like_those_made_at_once(self):
        page = self.open_demo()
        self.assertEqual(vars(page).keys() & {"promise", "levers", "best", "purpose", "drives", "clip"}, set())
        self.session.select(["cam-22"])
        self.press(page, "Clip")
        self.assertIn(self.session.job.cameras[21].name, page.clip._words.text())
        self.assertIs(page.clip.asker, self.asker)
        self.press(page, "Purpose")
        table = page.purpose.table
        self.assertEqual(table.records.rowCount(), page.cameras.records.rowCount())
        table.paste("Name\tAddress\nRoof\t172.22.40.99")
        self.press(self.window.stack.currentWidget(), "Import 1 camera")
        self.assertEqual(self.session.job.cameras[-1].name, "Roof")

    def test_the_curve_follows_choice_and_setting_and_a_point_is_adopted(self):
        page = self.open_demo()
        self.session.select(["cam-22"])
        self.wait_for_work()
        self.assertEqual(page.curve.chart._data.now, 12)
        page.curve.setting.setCurrentIndex(page.curve.setting.findData("key_frame_s"))
        self.wait_for_work()
        self.assertEqual(page.curve.chart._data.now, 2)
        page.curve.chart.setFocus()
        self.key(page.curve.chart, Qt.Key.Key_Right)
        self.key(page.curve.chart, Qt.Key.Key_Return)
        self.press(page, "Set 3 s")
        self.assertEqual([c.key_frame_s for c in self.session.job.cameras if c.id == "cam-22"], [3])
        self.assertEqual(self.session.undo_label, "Set 3 s on 1 camera")

    def test_a_curve_that_arrives_after_its_recorder_is_gone_is_no_trouble(self):
        curve = self.open_demo().curve
        self.wait_for_work()
        got = finished(days_curve(self.session.assessment, curve._recorder.id, (), curve.setting.currentData()))
        self.window.go("wiring")
        self.session.start_job(EMPTY_JOB)
        curve._done(curve._shown, got)
        self.window.go("sizing")
        self.wait_for_work()
        self.assertEqual(curve._words.text(), "Days to promise against")

    def test_the_curve_follows_the_column_in_focus(self):
        page = self.open_demo()
        columns = [column.id for column in page.cameras.records.columns]
        for column, setting in (
            ("picture", "width_px"),
            ("key_frame_s", "key_frame_s"),
            ("fps", "fps"),
            ("scene", "fps"),
        ):
            page.cameras.setCurrentIndex(page.cameras.records.index(1, columns.index(column)))
            with self.subTest(column):
                self.assertEqual(page.curve.setting.currentData(), setting)

    def test_a_click_on_the_curve_offers_the_value(self):
        page = self.open_demo()
        self.wait_for_work()
        self.click(page.curve.chart, (page.curve.chart.width() - 30, 80))
        self.press(page, "Set 30 fps")
        self.assertEqual(
            {c.fps for c in self.session.job.cameras if c.registered[:1] and c.registered[0].recorder == "rec-1"}, {30}
        )

    def test_days_asked_are_typed(self):
        page = self.open_demo()
        page.meters.least.setFocus()
        page.meters.least.clear()
        QTest.keyClicks(page.meters.least, "9")
        self.key(page.meters.least, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.retention.least_days, 9)
        self.assertIn("9 days can be promised", page._verdict.text())
        page.meters.least.setFocus()
        page.meters.least.clear()
        QTest.keyClicks(page.meters.least, "-5")
        self.key(page.meters.least, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.retention.least_days, 9)
        self.assertIn("least_days", self.last_notice())

    def test_what_helps_most_is_ranked_and_made_by_one_button(self):
        page = self.open_demo()
        self.press(page, "What helps most")
        self.wait_for_work()
        table = page.levers.table
        first, *days = [float(self.cell(table, row, "days")) for row in range(table.records.rowCount())]
        self.assertGreaterEqual(len(days), 7)
        self.assertEqual(days, sorted(days, reverse=True))
        table.setFocus()
        row = self.row_named(table, "Cap at 1.25 to 8 Mb/s (29 cameras)")
        self.assertEqual((row, self.cell(table, row, "days")), (0, f"{first:g}"))
        promised = self.cell(table, row, "days")
        table.selectRow(row)
        self.press(page, "Apply this change")
        self.wait_for_work()
        self.assertEqual(days_figure(self.session.assessment.recorder("rec-1").promised_days), promised)
        self.assertIn("31 days can be promised", page._verdict.text())
        self.assertEqual(self.session.undo_label, "Cap at 1.25 to 8 Mb/s (29 cameras)")
        self.session.undo()
        self.wait_for_work()
        self.assertLess(self.session.assessment.recorder("rec-1").promised_days, 31)

    def test_without_a_recorder_nothing_is_offered(self):
        page = self.open_job(job_with([camera(1)], recorders=()))
        page.show_levers()
        self.wait_for_work()
        self.assertEqual(page.levers.table.records.rowCount(), 0)

    def promised(self, page):
        """The promise on the page, once it is worked out."""
        page.promise._timer.timeout.emit()
        self.wait_for_work()
        return page.promise.promised

    def test_the_promise_is_drawn_and_follows_the_activity(self):
        page = self.open_demo()
        self.press(page, "Promise")
        first = self.promised(page)
        self.assertEqual(page.promise._words.text(), "Promise of Car hall recorder")
        self.assertEqual(first.promised_days, self.session.assessment.recorder("rec-1").promised_days)
        self.assertEqual(page.promise.table.records.index(0, 0).data(), first.reasons[0].words)
        self.press(page, "Working")
        self.assertIn("days, with 95 % probability", self.window.side._working._title.text())
        page.promise._busy_days.setFocus()
        page.promise._busy_days.clear()
        QTest.keyClicks(page.promise._busy_days, "120")
        self.key(page.promise._busy_days, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.activity.busy_days, 120)
        self.assertFalse(self.window.side._working.isVisible())
        self.assertLess(self.promised(page).promised_days, first.promised_days)
        self.session.undo()
        self.assertAlmostEqual(self.promised(page).promised_days, first.promised_days)

    def test_what_h265_saves_is_typed(self):
        page = self.open_demo()
        page.show_promise()
        before = self.session.assessment.recorder("rec-1").promised_days
        field = page.promise._saved
        field.setFocus()
        field.clear()
        QTest.keyClicks(field, "50")
        self.key(field, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.assumed.h265_saved_share, 0.5)
        self.assertGreater(self.session.assessment.recorder("rec-1").promised_days, 1.1 * before)
        self.session.undo()
        self.assertEqual(page.promise._saved.value, 35)

    def test_a_point_of_the_promise_is_asked_for(self):
        page = self.open_demo()
        page.show_promise()
        self.promised(page)
        page.promise._chart.setFocus()
        for _ in range(8):
            self.key(page.promise._chart, Qt.Key.Key_Left)
        self.key(page.promise._chart, Qt.Key.Key_Return)
        self.press(page, "Plan with")
        self.assertLess(self.session.job.retention.least_days, 31)

    def test_a_wrong_spread_is_refused(self):
        page = self.open_demo()
        page.show_promise()
        page.promise._spread.setFocus()
        page.promise._spread.clear()
        QTest.keyClicks(page.promise._spread, "900")
        self.key(page.promise._spread, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.activity.day_spread, 0.4)
        self.assertIn("day_spread", self.last_notice())

    def test_a_missed_purpose_is_led_to_and_mended_in_its_table(self):
        page = self.open_demo()
        finding = finding_of(self.session.job, "purpose-missed")
        self.session.go(finding.stage, finding.subjects[0])
        table = page.purpose.table
        self.assertTrue(table.isVisible() and table.hasFocus())
        self.assertTrue(page.purpose.sketch.isVisible())
        row = self.row_named(table, "Yard gate")
        self.assertEqual((self.cell(table, row, "serves"), self.cell(table, row, "needed")), ("recognise", "11.1"))
        self.assertIn("Yard gate: 20 m wide at 22 m, 135 px/m", page.purpose.sketch.words())
        self.put_cell(table, row, "focal_mm", "12")
        self.assertEqual(self.cell(table, row, "serves"), "identify")
        self.assertNotIn("purpose-missed", codes(self.session.job))
        self.assertIn("good for identify", page.purpose.sketch.words())
        self.session.undo()
        self.assertIn("purpose-missed", codes(self.session.job))

    def test_the_sketch_says_what_it_lacks(self):
        page = self.open_job(job_with([camera(1), camera(2, target_m=9)]))
        page.show_purpose()
        self.assertIn("Camera 2: ", page.purpose.sketch.words())
        self.session.select(["cam-1"])
        self.assertIn("Enter the target distance and the purpose of Camera 1", page.purpose.sketch.words())
        self.picture_of(page)
        self.open_job(job_with(cameras=[]))
        self.assertIn("Select a camera below", page.purpose.sketch.words())
        self.picture_of(page)

    def test_odd_views_are_drawn(self):
        page = self.open_demo()
        page.show_purpose()
        for fields in (
            {"focal_mm": 0.5, "target_m": 0.1, "mount_height_m": 0},
            {"focal_mm": 400, "target_m": 9000, "mount_height_m": 400},
            {"focal_mm": 2.8, "target_m": 1, "mount_height_m": 30},
        ):
            with self.subTest(fields):
                self.session.apply(set_each("Odd view", {"cam-26": fields}))
                self.session.select(["cam-26"])
                self.assertFalse(self.picture_of(page.purpose.sketch).isNull())

    def test_the_remedy_is_in_the_findings(self):
        page = self.open_demo()
        self.press(self.window.side, "Cap bit rates")
        self.assertIn("31 days can be promised", page._verdict.text())

    def test_meters_open_workings(self):
        page = self.open_demo()
        days, incoming = page.meters.pairs["rec-2"]
        self.click(days)
        self.assertIn("Days kept, Workshop recorder", self.window.side._working._title.text())
        self.key(incoming, Qt.Key.Key_Return)
        self.assertIn("Incoming, Workshop recorder", self.window.side._working._title.text())


class Addresses(WindowCase):
    def test_one_button_plans_all(self):
        page = self.open_demo("addresses")
        self.press(page, "Plan addresses")
        left = [code for code in codes(self.session.job) if code in ("duplicate-address", "in-pool", "outside-subnet")]
        self.assertEqual(left, [])
        self.assertIn("3 addresses planned", self.last_notice())
        self.press(page, "Plan addresses")
        self.assertIn("correct already", self.last_notice())

    def test_an_address_typed_by_hand_is_judged_at_once(self):
        page = self.open_job(job_with([camera(1), camera(2)]), "addresses")
        row = self.row_named(page.devices, "Camera 2")
        for text, code in (
            ("172.22.40.40", "duplicate-address"),
            ("172.22.40.120", "in-pool"),
            ("172.22.40.255", "reserved-address"),
            ("172.22.40.1", "reserved-address"),
            ("172.22.44.4", "outside-subnet"),
        ):
            with self.subTest(text):
                self.put_cell(page.devices, row, "address", text)
                self.assertIn(code, codes(self.session.job))
        for text in ("300.1.1.1", "172.22.040.7", "gate"):
            with self.subTest(text):
                self.put_cell(page.devices, row, "address", text)
                self.assertEqual(self.session.job.cameras[1].address, "172.22.44.4")
                self.assertIn("not an IPv4 address", self.last_notice())

    def test_table_and_mosaic_lead_to_each_other(self):
        page = self.open_demo("addresses")
        page.devices.lead_to("cam-30")
        self.assertIn("cam-30", page.mosaic._selected_ids)
        tile = 55
        rect = page.mosaic._rect(tile)
        self.click(page.mosaic, (round(rect.center().x()), round(rect.center().y())))
        names = {c.name for c in self.session.job.cameras if c.id in self.session.selected}
        self.assertEqual(names, {"Fan of tracks north", "Fan of tracks south"})
        self.assertEqual({part.name for part in page.devices.selected_parts()}, names)

    def test_the_mosaic_by_keyboard(self):
        page = self.open_job(job_with([camera(1)]), "addresses")
        page.mosaic.setFocus()
        for _ in range(2):
            self.key(page.mosaic, Qt.Key.Key_Down)
        for _ in range(8):
            self.key(page.mosaic, Qt.Key.Key_Right)
        self.assertEqual(self.session.selected, ("cam-1",))
        self.assertIn("172.22.40.40: Camera 1", page.mosaic.tile_words(40))
        for tile, words in ((0, "own address"), (255, "broadcast"), (1, "gateway"), (150, "DHCP pool"), (60, "free")):
            self.assertIn(words, page.mosaic.tile_words(tile))

    def test_a_wide_subnet_is_shown_in_runs_of_addresses(self):
        from eager_lens.core.addressing.ipv4 import subnet_of

        mosaic = Mosaic()
        mosaic.resize(500, 500)
        mosaic.show_data(MosaicData(subnet_of("10.0.0.0/8"), None, None, {}), frozenset())
        self.assertEqual(mosaic._tile_count(), 1024)
        self.assertFalse(self.picture_of(mosaic).isNull())

    def test_a_gateway_a_pool_and_devices_of_another_subnet_are_drawn_nowhere(self):
        from eager_lens.core.addressing.ipv4 import address_number, subnet_of

        stranger = (Tenant("cam-9", "Camera 9", "camera", None),)
        mosaic = Mosaic()
        mosaic.resize(500, 500)
        pictures = []
        for gateway in ("", "172.22.44.1", "172.22.36.1", "172.22.40.1"):
            number = address_number(gateway) if gateway else None
            pool = (number, number + 9) if number and gateway != "172.22.40.1" else None
            held = {number: stranger} if pool else {}
            mosaic.show_data(MosaicData(subnet_of("172.22.40.0/24"), number, pool, held), frozenset({"cam-9"}))
            above_legend = QRect(0, 0, mosaic.width(), int(mosaic._rect(255).bottom()))
            pictures.append(self.picture_of(mosaic).toImage().copy(above_legend))
        self.assertEqual([one == pictures[0] for one in pictures], [True, True, True, False])

    def test_subnets_are_typed(self):
        page = self.open_job(job_with([camera(1)], subnets=()), "addresses")
        self.press(page, "Add a subnet")
        self.put_cell(page.subnets, 0, "cidr", "10.44.8.0/25")
        self.put_cell(page.subnets, 0, "pool_first", "10.44.8.100")
        self.assertEqual(self.session.job.subnets[0].cidr, "10.44.8.0/25")
        self.assertIn("pool-half", codes(self.session.job))
        self.put_cell(page.subnets, 0, "cidr", "10.44.8.5/25")
        self.assertIn("10.44.8.0/25", self.last_notice())
        self.press(page, "Remove subnet")
        self.assertEqual(self.session.job.subnets, ())

    def test_no_room_is_told_with_the_number(self):
        tight = lan(cidr="172.22.40.0/29", first="", last="")
        page = self.open_job(job_with([camera(n, address="") for n in range(1, 9)], subnets=(tight,)), "addresses")
        self.press(page, "Plan addresses")
        self.assertIn("4 of 9 addresses do not fit", self.last_notice())


if __name__ == "__main__":
    unittest.main()


class BestPicture(WindowCase):
    def page(self):
        page = self.open_demo()
        self.press(page, "Best picture")
        self.wait_for_work()
        return page

    def test_it_is_searched_for_and_set_by_one_button(self):
        page = self.page()
        self.assertIn("of the best picture promises 31 days", page.best._words.text())
        self.assertGreater(page.best.table.records.rowCount(), 10)
        self.press(page, "Working")
        self.assertIn("% of the best picture", self.window.side._working._title.text())
        before = self.session.job
        self.press(page, "Apply proposal")
        self.assertIn("Best picture on", self.session.undo_label)
        self.assertGreater(self.session.assessment.recorder("rec-1").promised_days, 31)
        self.session.undo()
        self.assertEqual(self.session.job, before)

    def test_a_point_of_the_curve_is_shown(self):
        page = self.page()
        first = page.best.picked
        chart = page.best._chart
        chart.setFocus()
        for _ in range(3):
            self.key(chart, Qt.Key.Key_Right)
        self.key(chart, Qt.Key.Key_Return)
        self.assertGreater(page.best.picked.needed_tb, first.needed_tb)
        self.assertIn("It has 15.2 TB", page.best._hint.text())

    def test_what_is_allowed_changes_the_answer(self):
        page = self.page()
        self.session.apply(set_retention(14, None))
        self.wait_for_work()
        with_all = page.best.picked.quality_share
        page.best._smaller.click()
        self.wait_for_work()
        self.assertFalse(any("px" in change.words for change in page.best.picked.changes))
        self.assertNotAlmostEqual(page.best.picked.quality_share, with_all)

    def test_none_that_fits_is_explained(self):
        page = self.open_job(job_with([camera(1)], retention=Retention(least_days=9000)))
        page.show_best()
        self.wait_for_work()
        self.assertIn("no allowed settings can promise 9", page.best._words.text())
        self.assertIn("TB, and there are", page.best._hint.text())
        self.assertFalse(page.best._adopt.isVisible())

    def test_a_search_can_be_stopped(self):
        page = self.open_demo()
        page.show_best()
        page.best._busy.stop_button.click()
        self.wait_for_work()
        self.assertIn("stopped", page.best._words.text())
        self.assertIsNone(page.best.picked)


class Room(WindowCase):
    def test_a_tall_tab_takes_no_room_from_the_next(self):
        page = self.open_demo()
        self.wait_for_work()
        before = page.cameras.height()
        for at in range(len(page.tabs)):
            page._show_tab(at)
            self.wait_for_work()
        page.show_cameras()
        self.wait_for_work()
        self.assertEqual(page.cameras.height(), before)
