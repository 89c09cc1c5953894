"""The Wiring page: a site built from nothing by mouse and by keyboard, then asked, compared, bought and written out."""

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.model import EMPTY_JOB
from eager_lens.core.job.wiring import put_on
from eager_lens.desk.pages.wiring.page import ATTACHMENTS, DEVICES, DIAGRAM, FAILING, PARTS
from eager_lens.desk.panels.finding_cards import FindingCard
from tests.desk.base import WindowCase
from tests.support import camera, codes, demo_job, job_with, switch


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
        self.assertEqual(self.session.job.cameras[0].schedule, "week-1")
        self.assertGreater(self.session.assessment.recorder("rec-1").promised_days, 100)
        self.assertFalse(
            [
                f.title
                for f in self.session.assessment.findings
                if f.stage in ("bench", "schedule", "sizing") and f.severity > 1
            ]
        )

    def test_twelve_like_this_one(self):
        page = self.open_job(job_with([camera(1, name="Yard 1", fps=7)]), "wiring")
        self.session.select(["cam-1"])
        self.press(page, "like the selected")
        self.assertEqual(len(self.session.job.cameras), 13)
        self.assertEqual({c.fps for c in self.session.job.cameras}, {7})
        self.assertEqual(self.session.undo_label, "Add 12 like this one")
        self.session.undo()
        self.assertEqual(len(self.session.job.cameras), 1)

    def test_a_billion_like_this_one_are_refused(self):
        page = self.open_job(job_with([camera(1)]), "wiring")
        self.session.select(["cam-1"])
        for typed, words in (
            ("1000000000", "at most 20,000"),
            ("0", "enter 1 to"),
            ("2.5", "whole number"),
            ("x", "is not a number"),
        ):
            page._how_many.setFocus()
            page._how_many.clear()
            QTest.keyClicks(page._how_many, typed)
            self.key(page._how_many, Qt.Key.Key_Return)
            if typed != "x":
                self.press(page, "like the selected")
            with self.subTest(typed):
                self.assertIn(words, self.last_notice())
                self.assertEqual(len(self.session.job.cameras), 1)

    def wired_page(self):
        job = job_with([camera(n, measured_mbps=4) for n in (1, 2, 3)], network=(switch(ports=5),))
        return self.open_job(job, "wiring")

    def test_put_the_chosen_on_a_switch_and_take_it_back(self):
        page = self.wired_page()
        self.session.select(["cam-1", "cam-3", "rec-1"])
        page._fill_put_menu()
        on_switch = next(action for action in page._put_menu.actions() if action.text().startswith("Switch 1"))
        self.assertIn("5 free ports", on_switch.text())
        on_switch.trigger()
        self.assertEqual([(x.a, x.b_port) for x in self.session.job.links], [("cam-1", 1), ("cam-3", 2), ("rec-1", 3)])
        self.assertEqual(page.devices.tabs[3].text(), "Links 3")
        self.session.undo()
        self.assertEqual(self.session.job.links, ())

    def test_what_a_camera_hangs_on_is_typed_into_its_cell(self):
        page = self.wired_page()
        self.put_cell(page.devices.cameras, page.devices.cameras.records.row_of("cam-2"), "on", "switch 1")
        self.assertEqual(
            self.cell(page.devices.cameras, page.devices.cameras.records.row_of("cam-2"), "on"), "Switch 1, 1"
        )
        self.put_cell(page.devices.cameras, page.devices.cameras.records.row_of("cam-2"), "on", "Switch 7")
        self.assertIn("Switch 7", self.last_notice())
        self.assertEqual(len(self.session.job.links), 1)
        self.put_cell(page.devices.cameras, page.devices.cameras.records.row_of("cam-2"), "on", "")
        self.assertEqual(self.session.job.links, ())

    def test_links_are_edited_and_taken_out_in_their_table(self):
        page = self.wired_page()
        self.session.apply(put_on(self.session.job, ["cam-1", "cam-2", "rec-1"], "net-1"))
        page.devices.show_tab(3)
        self.put_cell(page.devices.links, page.devices.links.records.row_of("link-1"), "medium", "fib")
        self.put_cell(page.devices.links, page.devices.links.records.row_of("link-1"), "b_port", "4")
        self.put_cell(page.devices.links, page.devices.links.records.row_of("link-1"), "length_m", "120 m")
        changed = self.session.job.links[0]
        self.assertEqual((changed.medium, changed.b_port, changed.length_m), ("fibre", 4, 120))
        self.assertEqual(self.cell(page.devices.links, page.devices.links.records.row_of("link-3"), "load"), "8.0")
        self.assertEqual(self.cell(page.devices.links, page.devices.links.records.row_of("link-3"), "stops"), "2")
        self.put_cell(page.devices.links, page.devices.links.records.row_of("link-1"), "medium", "string")
        self.assertIn("copper, fibre, radio", self.last_notice())
        page.devices.links.setCurrentIndex(
            page.devices.links.records.index(page.devices.links.records.row_of("link-1"), 0)
        )
        page.devices.links.setFocus()
        self.key(page.devices.links, Qt.Key.Key_Delete)
        self.assertEqual([link.id for link in self.session.job.links], ["link-2", "link-3"])

    def test_a_size_brings_sockets_and_power(self):
        page = self.wired_page()
        page.devices.show_tab(2)
        self.put_cell(
            page.devices.network,
            page.devices.network.records.row_of("net-1"),
            "device_type",
            "24-port PoE switch, 370 W, four uplinks",
        )
        device = self.session.job.network[0]
        self.assertEqual((device.ports, device.poe_ports, device.budget_w), (28, 24, 370))

    def test_devices_are_added_by_kind(self):
        page = self.open_job(EMPTY_JOB, "wiring")
        page._add_network("switch")
        self.assertEqual(self.session.job.network[0].name, "Switch 1")
        self.assertTrue(page.devices.network.isVisible())

    def test_a_weak_run_is_told_and_put_right(self):
        page = self.open_demo("wiring")
        page.show_view(DEVICES)
        row = self.row_named(page.devices.cameras, "Wash track")
        column = next(at for at, c in enumerate(page.devices.cameras.records.columns) if c.id == "volts")
        before = float(page.devices.cameras.records.index(row, column).data())
        cards = self.window.side.findChildren(FindingCard)
        self.press(
            next(card for card in cards if "Wash track" in card._finding.title and card._finding.fix),
            "Use solid copper",
        )
        after = float(page.devices.cameras.records.index(row, column).data())
        self.assertTrue(before < 42.5 < after)
        page.devices.cameras.setCurrentIndex(page.devices.cameras.records.index(row, column))
        page.devices.cameras.setFocus()
        self.key(page.devices.cameras, Qt.Key.Key_Return)
        self.assertIn("Volts at Wash track", self.window.side._working._title.text())

    def test_lengths_typed_in_feet_are_kept_in_metres(self):
        page = self.open_job(job_with([camera(1, cable_m=30.48)]), "wiring")
        self.assertEqual(self.cell(page.devices.cameras, 0, "cable_m"), "30.48")
        for typed, metres in (("200 ft", 60.96), ("30'6\"", 9.2964), ("30 ft 6 in", 9.2964), ("12 m", 12), ("13", 13)):
            self.put_cell(page.devices.cameras, 0, "cable_m", typed)
            self.assertAlmostEqual(self.session.job.cameras[0].cable_m, metres)


class Hands(WindowCase):
    """Helpers for the diagram and the menus."""

    def pick(self, menu, *words):
        """Select an entry of a menu by the beginnings of its words, as a hand does: menu by menu."""
        menu.aboutToShow.emit()
        for word in words:
            action = next(one for one in menu.actions() if one.text().startswith(word))
            if action.menu() is not None:
                menu = action.menu()
            else:
                action.trigger()
        QApplication.processEvents()

    def box(self, name):
        """The box of this title in the diagram."""
        boxes = self.page.diagram.diagram.shown.boxes
        found = [box for box in boxes.values() if box.title == name]
        assert found, f"no box {name!r}; there are {[box.title for box in boxes.values()]}"
        return found[0]

    def at(self, name):
        center = self.page.diagram.diagram.rect_of(self.box(name).id).center()
        return center.x(), center.y()

    def drag_box(self, name, onto):
        self.drag(self.page.diagram.diagram.viewport(), self.at(name), self.at(onto))

    def wires(self):
        """The links by names: what hangs on what."""
        facts = self.session.assessment.facts
        return {(facts.name(link.a), facts.name(link.b)) for link in self.session.job.links}


class FromNothing(Hands):
    def setUp(self):
        super().setUp()
        self.page = self.open_job(EMPTY_JOB, "wiring")

    def test_by_mouse(self):
        """A recorder, a router, a switch and three cameras are added from menus and plugged in by dragging."""
        page = self.page
        self.pick(page._device_menu, "Switch", "8-port PoE")
        self.pick(page._device_menu, "Router", "Router, four")
        self.pick(page._device_menu, "Recorder")
        self.press(page, "Add a camera")
        self.key(self.window.focusWidget(), Qt.Key.Key_Return)
        page._how_many.show_value(2)
        self.press(page, "like the selected")
        self.press(page, "Diagram")
        self.assertEqual(self.box("Not connected").words, "3 cameras")
        self.session.select([])
        self.drag_box("Not connected", "Switch 1")
        self.drag_box("Recorder 1", "Switch 1")
        self.drag_box("Router 1", "Switch 1")
        self.assertEqual(
            self.wires(),
            {(f"Camera {n}", "Switch 1") for n in (1, 2, 3)} | {("Recorder 1", "Switch 1"), ("Router 1", "Switch 1")},
        )
        ports = {link.a: link.b_port for link in self.session.job.links}
        self.assertEqual(ports, {"cam-1": 1, "cam-2": 2, "cam-3": 3, "rec-1": 9, "net-2": 10})
        self.click(page.diagram.diagram.viewport(), self.at("Switch 1"))
        self.assertEqual(self.cell(page.diagram.ports, 0, "what"), "Camera 1")
        self.session.undo()
        self.assertNotIn(("Router 1", "Switch 1"), self.wires())

    def test_by_keyboard(self):
        """The same site without a mouse: commands from the search, cells that say what hangs on what, the diagram."""
        page = self.page
        for words in ("Add a recorder", "Add a switch"):
            self.shortcut(Qt.Key.Key_K)
            QTest.keyClicks(self.window.focusWidget(), words)
            self.key(self.window.focusWidget(), Qt.Key.Key_Return)
        self.assertEqual(len(self.session.job.network), 1)
        for name in ("Gate", "Door"):
            self.window.run("add-camera")
            editor = self.window.focusWidget()
            editor.clear()
            QTest.keyClicks(editor, name)
            self.key(editor, Qt.Key.Key_Return)
        page.devices.show_tab(0)
        for row in (0, 1):
            self.put_cell(page.devices.cameras, row, "on", "Switch 1")
        self.put_cell(page.devices.cameras, 0, "cable_m", "40")
        page.devices.tabs[1].setFocus()
        self.key(page.devices.tabs[1], Qt.Key.Key_Space)
        self.put_cell(page.devices.recorders, 0, "on", "switch 1")
        self.assertEqual(self.cell(page.devices.recorders, 0, "on"), "Switch 1, 9")
        page._view_tabs[DIAGRAM].setFocus()
        self.key(page._view_tabs[DIAGRAM], Qt.Key.Key_Space)
        drawn = page.diagram.diagram
        drawn.setFocus()
        self.key(drawn, Qt.Key.Key_Right)
        self.assertEqual(drawn.shown.boxes[drawn.current].title, "Switch 1")
        self.key(drawn, Qt.Key.Key_Right)
        self.key(drawn, Qt.Key.Key_Down)
        pile = drawn.shown.boxes[drawn.current]
        self.assertEqual((pile.kind, pile.words), ("cameras", "2 cameras"))
        self.key(drawn, Qt.Key.Key_Return)
        self.assertIn("Gate", [box.title for box in drawn.shown.boxes.values()])
        self.assertEqual(self.wires(), {("Gate", "Switch 1"), ("Door", "Switch 1"), ("Recorder 1", "Switch 1")})
        page.show_view(DEVICES)
        page.devices.show_tab(1)
        self.put_cell(page.devices.recorders, 0, "on", "")
        self.assertEqual(self.wires(), {("Gate", "Switch 1"), ("Door", "Switch 1")})


class Diagram(Hands):
    def setUp(self):
        super().setUp()
        self.page = self.open_demo("wiring")
        self.drawn = self.page.diagram.diagram

    def test_the_demo_is_shown_as_a_diagram_with_its_faults_at_the_spot(self):
        self.assertTrue(self.drawn.isVisible())
        marked = {box.title for box in self.drawn.shown.boxes.values() if box.severity is not None}
        self.assertIn("Depot yard", marked)
        self.assertNotIn("Car hall recorder", marked)

    def test_dragging_cameras_to_a_full_switch_is_refused_with_a_word(self):
        self.drag_box("Ticket kiosk", "Workshop switch")
        self.assertIn("Workshop switch has 3 free ports for 4 devices", self.last_notice())
        self.assertEqual(self.session.undo_label, "")

    def test_dragging_moves_cameras_and_undo_brings_them_back(self):
        before = self.session.job
        self.drag_box("Tea room", "Yard switch")
        self.assertIn(("Tea room counter", "Yard switch"), self.wires())
        self.session.undo()
        self.assertEqual(self.session.job, before)

    def test_a_finding_leads_to_its_spot_in_the_diagram(self):
        self.window.go("wiring", "cam-24")
        self.assertEqual(self.drawn.shown.boxes[self.drawn.current].title, "Depot yard")
        rows = [self.page.diagram.ports.records.at(at) for at in range(self.page.diagram.ports.records.rowCount())]
        self.assertEqual([row.what for row in rows if row.severity is not None], ["Wash track"])
        self.assertEqual(self.session.selected, ("cam-24",))

    def test_panning_zooming_and_fitting(self):
        before = self.drawn.rect_of("net-2")
        self.assertFalse(any(self.drawn.rect_of(box).contains(66, 16) for box in self.drawn.shown.boxes))
        self.drag(self.drawn.viewport(), (66, 16), (26, 6))
        self.assertEqual(self.drawn.rect_of("net-2").topLeft() - before.topLeft(), QPoint(-40, -10))
        self.key(self.drawn, Qt.Key.Key_Plus)
        self.assertGreater(self.drawn.rect_of("net-2").width(), before.width())
        self.key(self.drawn, Qt.Key.Key_0)
        self.assertEqual(self.drawn.rect_of("net-2"), before)

    def test_a_radio_link_is_planned_in_its_panel(self):
        self.page.lead_to("link-42")
        panel = self.page.diagram.radio
        self.assertTrue(panel.isVisible())
        self.assertIn("radio-tight", codes(self.session.job))
        field = panel.fields["a_height_m"]
        field.setFocus()
        QTest.keyClicks(field, "9")
        self.key(field, Qt.Key.Key_Return)
        plan = next(link.radio for link in self.session.job.links if link.id == "link-42")
        self.assertEqual(plan.a_height_m, 9)
        self.assertNotIn("radio-tight", codes(self.session.job))
        self.assertIn("44.6 Mb/s throughput", panel._budget.text())
        field = panel.fields["height_m 1"]
        field.setFocus()
        field.clear()
        self.key(field, Qt.Key.Key_Return)
        plan = next(link.radio for link in self.session.job.links if link.id == "link-42")
        self.assertEqual(len(plan.obstacles), 1)
        field = panel.fields["frequency_ghz"]
        field.setFocus()
        QTest.keyClicks(field, "x")
        self.key(field, Qt.Key.Key_Return)
        self.assertIn("Frequency", self.last_notice())

    def test_the_links_of_a_line_are_edited_below_it(self):
        self.page.lead_to("link-40")
        table = self.page.diagram.links
        self.assertTrue(table.isVisible())
        self.put_cell(table, 0, "long_reach", "yes")
        self.put_cell(table, 0, "medium", "copper")
        self.assertEqual(self.session.assessment.facts.topology.wiring.capacity_mbps["link-40"], 10)
        self.assertIn("link-over", codes(self.session.job))

    def test_unplugging_in_the_port_table(self):
        self.page.lead_to("net-4")
        table = self.page.diagram.ports
        table.setFocus()
        table.selectRow(0)
        self.key(table, Qt.Key.Key_Delete)
        self.assertNotIn(("Lathe", "Workshop switch"), self.wires())
        self.assertIn("Not connected", [box.title for box in self.drawn.shown.boxes.values()])

    def test_figures_of_a_socket_open_their_working_and_a_free_one_has_none(self):
        self.page.lead_to("net-3")
        table = self.page.diagram.ports
        columns = [column.id for column in table.records.columns]
        for row, title in ((3, "Volts at Wash track"), (13, "Volts at Wash track")):
            table.setCurrentIndex(table.records.index(row, columns.index("volts")))
            table.setFocus()
            self.key(table, Qt.Key.Key_Return)
            self.assertIn(title, self.window.side._working._title.text())
        self.assertEqual(self.cell(table, 13, "what"), "free")

    def test_svg_and_pdf_hold_the_whole_diagram(self):
        self.asker.files = [self.folder / "w.svg", self.folder / "w.pdf", self.folder / "none" / "w.svg"]
        menu = next(
            menu for menu in self.page.findChildren(QMenu) if menu.actions()[:1] and "SVG" in menu.actions()[0].text()
        )
        for entry in ("Diagram as SVG", "Diagram as PDF", "Diagram as SVG"):
            self.pick(menu, entry)
            self.wait_for_work()
        svg = (self.folder / "w.svg").read_text("utf-8")
        self.assertIn("Workshop recorder", svg)
        self.assertIn("Wiring of Brindlemoor Tramway", svg)
        self.assertTrue((self.folder / "w.pdf").read_bytes().startswith(b"%PDF"))
        self.assertIn("no such file or folder", self.last_notice())

    def test_another_job_begins_anew(self):
        self.page.lead_to("link-42")
        self.drawn.zoom_by(3)
        self.open_job(job_with([camera(1)], network=(switch(),)), "wiring")
        self.page.show_view(DIAGRAM)
        self.assertTrue(self.page.diagram.ports.isVisible())
        self.assertTrue(self.drawn.rect().contains(self.drawn.rect_of("net-1")))


class Views(Hands):
    def setUp(self):
        super().setUp()
        self.page = self.open_demo("wiring")

    def test_what_if_this_fails(self):
        self.press(self.page, "What if")
        table = self.page.failing.parts
        stopped = [int(self.cell(table, row, "stopped").replace("–", "0")) for row in range(table.records.rowCount())]
        self.assertEqual(stopped, sorted(stopped, reverse=True))
        table.setFocus()
        table.selectRow(self.row_named(table, "Yard switch"))
        self.assertIn("If Yard switch fails, 11 cameras stop recording", self.page.failing._words.text())
        table.selectRow(self.row_named(table, "Router"))
        self.assertIn("29 cameras can no longer be viewed remotely", self.page.failing._words.text())
        drawn = self.page.failing.diagram
        self.click(drawn.viewport(), (drawn.rect_of("net-8").center().x(), drawn.rect_of("net-8").center().y()))
        self.assertIn("recording and remote viewing go on everywhere", self.page.failing._words.text())

    def test_the_four_ways_are_compared_and_one_is_chosen(self):
        before = self.session.job
        self.press(self.page, "Options")
        self.wait_for_work()
        self.press(self.page.ways, "Apply this option")
        self.assertEqual({recorder.attachment for recorder in self.session.job.recorders}, {"camera interface"})
        self.assertIn(("Router", "Car hall recorder"), self.wires())
        self.assertEqual(self.session.undo_label, "Attach cameras: camera interface")
        self.session.undo()
        self.assertEqual(self.session.job, before)
        self.wait_for_work()

    def test_ways_need_a_camera_and_a_recorder(self):
        page = self.open_job(EMPTY_JOB, "wiring")
        page.show_view(ATTACHMENTS)
        self.assertIn("Add a camera and a recorder first", page.ways._grid.itemAt(0).widget().text())

    def test_the_parts_list_follows_its_waste_share_and_is_written(self):
        self.press(self.page, "Parts list")
        view = self.page.parts
        view.waste.setFocus()
        QTest.keyClicks(view.waste, "20")
        self.key(view.waste, Qt.Key.Key_Return)
        self.assertEqual(self.session.job.cable_waste_share, 0.2)
        row = self.row_named(view.parts, "Fibre, outdoors")
        self.assertEqual(self.cell(view.parts, row, "quantity"), "192")
        self.asker.files = [self.folder / "parts.csv", self.folder / "parts.xlsx"]
        self.press(view, "As CSV")
        self.press(view, "As XLSX")
        self.assertIn('"Fibre, outdoors",192,m', (self.folder / "parts.csv").read_text("utf-8-sig"))
        self.assertTrue((self.folder / "parts.xlsx").read_bytes().startswith(b"PK"))
        self.press(view, "Copy all")
        self.assertIn("Surge protector, network", self.clipboard())

    def test_power_units_are_added_for_what_is_chosen_and_edited(self):
        self.session.select(["cam-12"])
        self.pick(self.page._device_menu, "Power supply")
        table = self.page.devices.power
        self.assertTrue(table.isVisible())
        row = table.records.row_of("pow-5")
        self.assertEqual(self.cell(table, row, "feeds"), "Spare parts corner")
        self.assertIn("fed-twice", codes(self.session.job))
        self.put_cell(table, row, "feeds", "Nobody")
        self.assertIn("'Nobody' is not a device of this job", self.last_notice())
        self.put_cell(table, row, "kind", "UPS")
        self.put_cell(table, row, "feeds", "Workshop recorder, workshop switch")
        self.put_cell(table, row, "battery_wh", "200 Wh")
        # 30 W of the recorder, 10 W of the switch, 42.3 W out of its ports over 90 %: 60 x 200 x 0.85 x 0.8 / 87.0 minutes.
        self.assertEqual(self.cell(table, row, "left"), "55.7 min")
        self.key(table, Qt.Key.Key_Delete)
        self.assertEqual(len(self.session.job.power_units), 4)

    def test_a_kind_is_made_the_jobs_own_and_used(self):
        self.page.show_view(DEVICES)
        self.page.devices.show_tab(5)
        table = self.page.devices.kinds
        self.put_cell(table, table.records.row_of("powered-8"), "budget_w", "150")
        self.assertEqual(self.cell(table, table.records.row_of("powered-8"), "own"), "this job")
        self.pick(self.page._device_menu, "Switch", "8-port PoE switch, 120 W")
        self.assertEqual(self.session.job.network[-1].budget_w, 150)
        self.page.devices.show_tab(5)
        table.setFocus()
        table.selectRow(table.records.row_of("powered-8"))
        self.press(self.page, "Add a type like")
        self.key(self.window.focusWidget(), Qt.Key.Key_Return)
        self.assertEqual(len(self.session.job.device_types), 2)
        table.selectRow(table.records.row_of("powered-4"))
        self.key(table, Qt.Key.Key_Delete)
        self.assertIn("Only types of this job", self.last_notice())

    def test_views_out_of_sight_do_no_work_and_catch_up(self):
        self.page.show_view(PARTS)
        self.session.apply(set_fields(["cam-1"], "longer", cable_m=118.0))
        lines = self.page.parts.parts
        row = self.row_named(lines, "Network cable, 24 AWG solid copper, indoors")
        self.assertEqual(self.cell(lines, row, "quantity"), "495")
        self.page.show_view(FAILING)
        self.page.show_view(DIAGRAM)
        self.assertEqual(assess(self.session.job).facts.failures, self.session.assessment.facts.failures)


class SpareDevices(WindowCase):
    def test_marked_from_any_page_seen_in_the_tables_installed_and_undone(self):
        job = demo_job()
        self.open_job(job, "sizing")
        self.window.run("mark-spare")
        self.assertIn("Select the spare devices first", self.last_notice())
        self.session.select(("cam-1", "net-3"))
        self.window.run("mark-spare")
        self.assertEqual(len(self.session.job.cameras), len(job.cameras) - 1)
        self.window.go("wiring")
        devices = self.window.pages["wiring"].devices
        self.press(self.window.pages["wiring"], "Devices")
        self.press(devices, "Spare devices 2")
        self.assertEqual([self.cell(devices.spares, row, "role") for row in range(2)], ["switch", "camera"])
        self.press(devices, "Install selected")
        self.assertIn("Select the spare devices to install first", self.last_notice())
        devices.spares.selectRow(1)
        self.press(devices, "Install selected")
        self.assertEqual((self.session.job.cameras[-1].id, self.session.job.spare_cameras), ("cam-1", ()))
        self.assertEqual(devices.cameras.selected_parts()[0].id, "cam-1")
        self.press(devices, "Spare devices 1")
        devices.spares.selectRow(0)
        self.key(devices.spares, Qt.Key.Key_Delete)
        self.assertEqual(list(self.session.job.spare_devices()), [])
        for _ in range(3):
            self.session.undo()
        self.assertEqual(self.session.job, job)
