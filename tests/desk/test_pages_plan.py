"""Listing, importing, sizing and addressing: each page's main task, by mouse and by keyboard."""

import unittest

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from eager_lens.core.job.model import EMPTY_JOB
from eager_lens.core.job.wiring import put_on
from eager_lens.desk.widgets.mosaic import Mosaic, MosaicData
from tests.desk.base import WindowCase
from tests.support import camera, codes, job_with, lan, switch


class Wiring(WindowCase):
    def test_type_cameras_in_from_nothing_by_keyboard(self):
        page = self.open_job(EMPTY_JOB, "wiring")
        self.press(page, "Add a camera")
        editor = self.window.focusWidget()
        editor.clear()
        QTest.keyClicks(editor, "Gate")
        self.key(editor, Qt.Key.Key_Return)
        self.assertEqual([c.name for c in self.session.job.cameras], ["Gate"])

    def test_a_new_job_needs_nothing_but_cameras_and_a_recorder_to_give_figures(self):
        self.window.new_job()
        self.shortcut(Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        editor = self.window.focusWidget()
        QTest.keyClicks(editor, "Gate")
        self.key(editor, Qt.Key.Key_Return)
        self.window.run("add-recorder")
        self.window.run("fill-channels")
        self.assertEqual(self.session.job.cameras[0].week, "week-1")
        self.assertGreater(self.session.assessment.recorder("rec-1").days, 100)
        self.assertFalse(
            [
                f.title
                for f in self.session.assessment.findings
                if f.stage in ("bench", "week", "sizing") and f.severity > 1
            ]
        )

    def test_twelve_like_this_one(self):
        page = self.open_job(job_with([camera(1, name="Yard 1", fps=7)]), "wiring")
        self.session.choose(["cam-1"])
        self.press(page, "like the chosen")
        self.assertEqual(len(self.session.job.cameras), 13)
        self.assertEqual({c.fps for c in self.session.job.cameras}, {7})
        self.assertEqual(self.session.undo_label, "Add 12 like this one")
        self.session.undo()
        self.assertEqual(len(self.session.job.cameras), 1)

    def test_a_billion_like_this_one_are_refused(self):
        page = self.open_job(job_with([camera(1)]), "wiring")
        self.session.choose(["cam-1"])
        for typed, words in (
            ("1000000000", "at most 20,000"),
            ("0", "give 1 to"),
            ("2.5", "whole number"),
            ("x", "no number"),
        ):
            page._how_many.setFocus()
            page._how_many.clear()
            QTest.keyClicks(page._how_many, typed)
            self.key(page._how_many, Qt.Key.Key_Return)
            if typed != "x":
                self.press(page, "like the chosen")
            with self.subTest(typed):
                self.assertIn(words, self.last_notice())
                self.assertEqual(len(self.session.job.cameras), 1)

    def wired_page(self):
        job = job_with([camera(n, measured_mbps=4) for n in (1, 2, 3)], network=(switch(ports=5),))
        return self.open_job(job, "wiring")

    def test_put_the_chosen_on_a_switch_and_take_it_back(self):
        page = self.wired_page()
        self.session.choose(["cam-1", "cam-3", "rec-1"])
        page._fill_put_menu()
        on_switch = next(action for action in page._put_menu.actions() if action.text().startswith("Switch 1"))
        self.assertIn("5 free sockets", on_switch.text())
        on_switch.trigger()
        self.assertEqual([(x.a, x.b_port) for x in self.session.job.links], [("cam-1", 1), ("cam-3", 2), ("rec-1", 3)])
        self.assertEqual(page._tabs[3].text(), "Links 3")
        self.session.undo()
        self.assertEqual(self.session.job.links, ())

    def test_what_a_camera_hangs_on_is_typed_into_its_cell(self):
        page = self.wired_page()
        self.put_cell(page.cameras, page.cameras.records.row_of("cam-2"), "on", "switch 1")
        self.assertEqual(self.cell(page.cameras, page.cameras.records.row_of("cam-2"), "on"), "Switch 1, 1")
        self.put_cell(page.cameras, page.cameras.records.row_of("cam-2"), "on", "Switch 7")
        self.assertIn("Switch 7", self.last_notice())
        self.assertEqual(len(self.session.job.links), 1)
        self.put_cell(page.cameras, page.cameras.records.row_of("cam-2"), "on", "")
        self.assertEqual(self.session.job.links, ())

    def test_links_are_edited_and_taken_out_in_their_table(self):
        page = self.wired_page()
        self.session.apply(put_on(self.session.job, ["cam-1", "cam-2", "rec-1"], "net-1"))
        page._show_tab(3)
        self.put_cell(page.links, page.links.records.row_of("link-1"), "medium", "fib")
        self.put_cell(page.links, page.links.records.row_of("link-1"), "b_port", "4")
        self.put_cell(page.links, page.links.records.row_of("link-1"), "length_m", "120 m")
        changed = self.session.job.links[0]
        self.assertEqual((changed.medium, changed.b_port, changed.length_m), ("fibre", 4, 120))
        self.assertEqual(self.cell(page.links, page.links.records.row_of("link-3"), "load"), "8.0")
        self.assertEqual(self.cell(page.links, page.links.records.row_of("link-3"), "stops"), "2")
        self.put_cell(page.links, page.links.records.row_of("link-1"), "medium", "string")
        self.assertIn("copper, fibre, radio", self.last_notice())
        page.links.setCurrentIndex(page.links.records.index(page.links.records.row_of("link-1"), 0))
        page.links.setFocus()
        self.key(page.links, Qt.Key.Key_Delete)
        self.assertEqual([link.id for link in self.session.job.links], ["link-2", "link-3"])

    def test_a_size_brings_sockets_and_power(self):
        page = self.wired_page()
        page._show_tab(2)
        self.put_cell(
            page.network, page.network.records.row_of("net-1"), "kind", "24-port powered switch, 370 W, four uplinks"
        )
        device = self.session.job.network[0]
        self.assertEqual((device.ports, device.powered_ports, device.budget_w), (28, 24, 370))

    def test_devices_are_added_by_kind(self):
        page = self.open_job(EMPTY_JOB, "wiring")
        page._add_network("switch")
        self.assertEqual(self.session.job.network[0].name, "Switch 1")
        self.assertTrue(page.network.isVisible())

    def test_the_map_chooses_devices_and_places(self):
        page = self.open_demo("wiring")
        spot, device = next((spot, d) for spot, d in page._map._spots if d.name == "Yard throat")
        self.click(page._map, (round(spot.center().x()), round(spot.center().y())))
        self.assertEqual(self.session.chosen, (device.id,))
        self.click(page._map, (20, round(spot.center().y())))
        self.assertEqual(len(self.session.chosen), 10)

    def test_a_weak_run_is_told_and_put_right(self):
        page = self.open_demo("wiring")
        row = self.row_named(page.cameras, "Wash track")
        column = next(at for at, c in enumerate(page.cameras.records.columns) if c.id == "volts")
        before = float(page.cameras.records.index(row, column).data())
        self.press(self.window.side, "Change Wash track")
        after = float(page.cameras.records.index(row, column).data())
        self.assertTrue(before < 42.5 < after)
        page.cameras.setCurrentIndex(page.cameras.records.index(row, column))
        page.cameras.setFocus()
        self.key(page.cameras, Qt.Key.Key_Return)
        self.assertIn("Volts at Wash track", self.window.side._working._title.text())

    def test_lengths_in_feet_are_kept_in_metres(self):
        page = self.open_job(job_with([camera(1, cable_m=30.48)]), "wiring")
        self.assertEqual(self.cell(page.cameras, 0, "cable_m"), "30.5")
        self.window.run("imperial")
        self.assertEqual(self.cell(page.cameras, 0, "cable_m"), "100")
        self.put_cell(page.cameras, 0, "cable_m", "200")
        self.assertAlmostEqual(self.session.job.cameras[0].cable_m, 60.96)
        self.put_cell(page.cameras, 0, "cable_m", "12 m")
        self.assertAlmostEqual(self.session.job.cameras[0].cable_m, 12)
        self.window.run("imperial")


class Import(WindowCase):
    LIST = "Camera;Location;IP;FPS;GOP (frames);Where\nGate;Yard;172.22.40.90;12,5;25;N\nDoor;Hall;300.1.1.1;10;20;S\n"

    def test_from_a_file_to_cameras_and_back_by_one_undo(self):
        self.asker.files = [self.write("list.csv", self.LIST)]
        self.window.run("import")
        view = self.window.stack.currentWidget()
        self.assertIn("1 camera can be imported; 1 row left out", view._verdict.text())
        self.assertIn("Row 3, IP", view._problems.toPlainText())
        self.press(view, "Import 1 camera")
        made = self.session.job.cameras[0]
        self.assertEqual((made.name, made.fps, made.key_frame_s), ("Gate", 12.5, 2))
        self.assertEqual(self.session.chosen, (made.id,))
        self.shortcut(Qt.Key.Key_Z)
        self.assertEqual(self.session.job.cameras, ())

    def test_a_wrong_guess_is_put_right(self):
        self.window.import_path(self.write("list.csv", self.LIST))
        view = self.window.stack.currentWidget()
        box = view._grid.cellWidget(0, 5)
        self.assertEqual(box.currentData(), "")
        box.setCurrentIndex(box.findData("note"))
        box.activated.emit(box.currentIndex())
        self.press(view, "Import 1 camera")
        self.assertEqual(self.session.job.cameras[0].note, "N")

    def test_rows_left_out_can_be_copied_put_right_and_pasted(self):
        self.window.import_path(self.write("list.csv", self.LIST))
        view = self.window.stack.currentWidget()
        self.press(view, "Copy the rows left out")
        self.press(view, "Import 1 camera")
        self.clipboard(self.clipboard().replace("300.1.1.1", "172.22.40.91"))
        self.window.run("paste-list")
        self.press(self.window.stack.currentWidget(), "Import 1 camera")
        self.assertEqual([c.name for c in self.session.job.cameras], ["Gate", "Door"])

    def test_cancel_changes_nothing(self):
        self.open_job(job_with([camera(1)]))
        self.window.import_path(self.write("list.csv", self.LIST))
        self.press(self.window.stack.currentWidget(), "Cancel")
        self.assertEqual(len(self.session.job.cameras), 1)
        self.assertEqual(self.session.undo_label, "")
        self.assertIs(self.window.stack.currentWidget(), self.window.pages["sizing"])

    def test_what_is_no_list_is_told(self):
        path = self.folder / "broken.xlsx"
        path.write_bytes(b"PK\x03\x04 nothing")
        self.window.open_path(path)
        self.assertIn("cannot be read as an XLSX", self.last_notice())
        self.clipboard("")
        self.open_job(EMPTY_JOB)
        self.window.run("paste-list")
        self.assertIn("no list to paste", self.last_notice())


class Sizing(WindowCase):
    def test_the_curve_follows_choice_and_setting_and_a_point_is_adopted(self):
        page = self.open_demo()
        self.session.choose(["cam-22"])
        self.assertEqual(page._chart._data.now, 12)
        page._setting.setCurrentIndex(page._setting.findData("key_frame_s"))
        self.assertEqual(page._chart._data.now, 2)
        page._chart.setFocus()
        self.key(page._chart, Qt.Key.Key_Right)
        self.key(page._chart, Qt.Key.Key_Return)
        self.press(page, "Set 3 s")
        self.assertEqual([c.key_frame_s for c in self.session.job.cameras if c.id == "cam-22"], [3])
        self.assertEqual(self.session.undo_label, "Set 3 s on 1 camera")

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
                self.assertEqual(page._setting.currentData(), setting)

    def test_a_click_on_the_curve_offers_the_value(self):
        page = self.open_demo()
        self.click(page._chart, (page._chart.width() - 30, 80))
        self.press(page, "Set 30 fps")
        self.assertEqual(
            {c.fps for c in self.session.job.cameras if c.registered[:1] and c.registered[0].recorder == "rec-1"}, {30}
        )

    def test_days_asked_are_typed(self):
        page = self.open_demo()
        page._least.setFocus()
        page._least.clear()
        QTest.keyClicks(page._least, "14")
        self.key(page._least, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.retention.least_days, 14)
        self.assertIn("Every recorder keeps the 14 days", page._verdict.text())
        page._least.setFocus()
        page._least.clear()
        QTest.keyClicks(page._least, "-5")
        self.key(page._least, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.retention.least_days, 14)
        self.assertIn("least_days", self.last_notice())

    def test_the_remedy_is_in_the_findings(self):
        page = self.open_demo()
        self.press(self.window.side, "Add 1 more 6 TB")
        self.assertIn("Every recorder keeps the 31 days", page._verdict.text())

    def test_meters_open_workings(self):
        page = self.open_demo()
        days, incoming = page._meter_pairs["rec-2"]
        self.click(days)
        self.assertIn("Days kept, Workshop recorder", self.window.side._working._title.text())
        self.key(incoming, Qt.Key.Key_Return)
        self.assertIn("Incoming, Workshop recorder", self.window.side._working._title.text())


class Addresses(WindowCase):
    def test_one_button_plans_all(self):
        page = self.open_demo("addresses")
        self.press(page, "Plan addresses for all")
        left = [code for code in codes(self.session.job) if code in ("duplicate-address", "in-pool", "outside-subnet")]
        self.assertEqual(left, [])
        self.assertIn("3 addresses planned", self.last_notice())
        self.press(page, "Plan addresses for all")
        self.assertIn("right already", self.last_notice())

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
                self.assertIn("no IPv4 address", self.last_notice())

    def test_table_and_mosaic_lead_to_each_other(self):
        page = self.open_demo("addresses")
        page.devices.lead_to("cam-30")
        self.assertIn("cam-30", page.mosaic._chosen_ids)
        tile = 55
        rect = page.mosaic._rect(tile)
        self.click(page.mosaic, (round(rect.center().x()), round(rect.center().y())))
        names = {c.name for c in self.session.job.cameras if c.id in self.session.chosen}
        self.assertEqual(names, {"Fan of tracks north", "Fan of tracks south"})
        self.assertEqual({part.name for part in page.devices.chosen_parts()}, names)

    def test_the_mosaic_by_keyboard(self):
        page = self.open_job(job_with([camera(1)]), "addresses")
        page.mosaic.setFocus()
        for _ in range(2):
            self.key(page.mosaic, Qt.Key.Key_Down)
        for _ in range(8):
            self.key(page.mosaic, Qt.Key.Key_Right)
        self.assertEqual(self.session.chosen, ("cam-1",))
        self.assertIn("172.22.40.40: Camera 1", page.mosaic.tile_words(40))
        for tile, words in ((0, "own address"), (255, "broadcast"), (1, "gateway"), (150, "leased pool"), (60, "free")):
            self.assertIn(words, page.mosaic.tile_words(tile))

    def test_a_wide_subnet_is_shown_in_runs_of_addresses(self):
        from eager_lens.core.addressing.ipv4 import subnet_of

        mosaic = Mosaic()
        mosaic.resize(500, 500)
        mosaic.show_data(MosaicData(subnet_of("10.0.0.0/8"), None, None, {}), frozenset())
        self.assertEqual(mosaic._tile_count(), 1024)
        self.assertFalse(mosaic.grab().isNull())

    def test_subnets_are_typed(self):
        page = self.open_job(job_with([camera(1)], subnets=()), "addresses")
        self.press(page, "Add a subnet")
        self.put_cell(page.subnets, 0, "cidr", "10.44.8.0/25")
        self.put_cell(page.subnets, 0, "pool_first", "10.44.8.100")
        self.assertEqual(self.session.job.subnets[0].cidr, "10.44.8.0/25")
        self.assertIn("pool-half", codes(self.session.job))
        self.put_cell(page.subnets, 0, "cidr", "10.44.8.5/25")
        self.assertIn("10.44.8.0/25", self.last_notice())
        self.press(page, "Remove the subnet")
        self.assertEqual(self.session.job.subnets, ())

    def test_no_room_is_told_with_the_number(self):
        tight = lan(cidr="172.22.40.0/29", first="", last="")
        page = self.open_job(job_with([camera(n, address="") for n in range(1, 9)], subnets=(tight,)), "addresses")
        self.press(page, "Plan addresses for all")
        self.assertIn("4 of 9 addresses are missing", self.last_notice())


if __name__ == "__main__":
    unittest.main()
