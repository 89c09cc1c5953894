"""The wiring's own widgets by themselves: diagram, radio path, the sentences of what fails; and jobs full of mistakes."""

import unittest

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QDragMoveEvent, QDropEvent, QHelpEvent, QImage, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QToolTip

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.failing import Failure
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.model import Link, NetworkDevice, PowerUnit, RadioPlan
from eager_lens.core.present.diagram import diagram
from eager_lens.desk.pages.wiring.elevation import Elevation, Path
from eager_lens.desk.pages.wiring.failing_view import part_name, what_it_takes
from eager_lens.desk.pages.wiring.wiring_diagram import WiringDiagram
from eager_lens.desk.theme import look
from eager_lens.desk.widgets.dragging import devices_mime
from eager_lens.desk.widgets.wiring_drawing import line_width
from tests.desk.base import SessionCase, WindowCase
from tests.support import camera, codes, demo_job, job_with, recorder, switch


def full_of_mistakes():
    """Every mistake of the wiring at once, as a file may hold it."""
    router = {"role": "router", "ports": 3, "wan_port": 3, "poe_ports": 0}
    network = (
        switch(1, ports=4, poe_ports=2, device_type="no such type"),
        switch(2),
        switch(3),
        NetworkDevice(id="net-4", name="Orphan"),
        NetworkDevice(id="net-5", name="Alone", role="bridge"),
        NetworkDevice(id="net-6", name="Router", **router),
        NetworkDevice(id="net-7", name="Fed", poe_class=3, poe_ports=1),
        NetworkDevice(id="net-8", name="Feeds back", poe_class=3, poe_ports=1),
    )
    links = (
        Link(id="l1", a="net-1", b="net-2", b_port=1),
        Link(id="l2", a="net-2", b="net-3", a_port=1, length_m=0),
        Link(id="l3", a="net-3", b="net-1"),
        Link(id="l4", a="cam-1", b="net-1", b_port=99),
        Link(id="l5", a="cam-2", b="gone"),
        Link(id="l6", a="net-1", b="net-1"),
        Link(id="l7", a="net-6", a_port=3, b="net-1"),
        Link(id="l8", a="net-7", b="net-8"),
        Link(id="l9", a="rec-1", b="net-3"),
        Link(id="l10", a="cam-3", b="net-2", medium="radio", length_m=0, radio=RadioPlan(security="open")),
    )
    power = (
        PowerUnit(id="pow-1", name="Two", kind="injector", feeds=("cam-1", "cam-2", "gone")),
        PowerUnit(id="pow-2", name="Wire", output="24 V AC", length_m=9000, feeds=("cam-1",)),
        PowerUnit(id="pow-3", name="Flat", kind="ups", budget_w=1, feeds=("rec-1", "cam-1", "gone")),
    )
    cameras = [camera(1, cable_m=0), camera(2), camera(3)]
    return job_with(cameras, network=network, links=links, power_units=power)


class Mistakes(WindowCase):
    EXPECTED = (
        "loop port-twice no-such-port too-few-ports link-without-device orphan-device bridge-alone unknown-kind zero-cable "
        "wan-port open-radio injector-many feeds-nothing fed-twice wrong-voltage ups-over not-plugged"
    )

    def test_each_is_a_finding_with_a_way_out_and_the_file_still_opens(self):
        job = job_from_text(job_text(full_of_mistakes()))
        self.assertEqual(job, full_of_mistakes())
        found = {finding.code: finding for finding in assess(job).findings}
        for code in self.EXPECTED.split():
            with self.subTest(code):
                self.assertIn(code, found)
                self.assertTrue(found[code].action)

    def test_every_view_shows_it(self):
        page = self.open_job(full_of_mistakes(), "wiring")
        for at in range(5):
            page.show_view(at)
            self.wait_for_work()
        for at in range(6):
            page.devices.show_tab(at)
            QApplication.processEvents()
        for device in self.session.job.devices():
            page.show_view(0)
            page.lead_to(device.id)
        for link in self.session.job.links:
            page.lead_to(link.id)

    def test_pressing_every_fix_in_turn_comes_to_an_end(self):
        job = full_of_mistakes()
        for _ in range(40):
            fix = next((f.fix for f in assess(job).findings if f.fix is not None and f.stage == "wiring"), None)
            if fix is None:
                break
            after = fix.apply(job)
            self.assertNotEqual(after, job, fix.label)
            job = after
        self.assertFalse({"loop", "link-without-device", "wan-port", "open-radio"} & set(codes(job)))


class Alone(SessionCase):
    def setUp(self):
        super().setUp()
        look.set_to(dark=False, large=False)
        self.widget = WiringDiagram()
        self.widget.resize(900, 500)
        self.assessment = assess(demo_job())
        self.widget.show_diagram(diagram(self.assessment), frozenset())
        self.widget.show()
        self.addCleanup(self.widget.deleteLater)

    def center(self, box_id):
        return QPointF(self.widget.rect_of(box_id).center())

    def tip_at(self, point):
        place = point.toPoint()
        at = self.widget.viewport().mapToGlobal(place)
        QApplication.sendEvent(self.widget.viewport(), QHelpEvent(QEvent.Type.ToolTip, place, at))
        return QToolTip.text()

    def test_hovering_tells_load_power_and_what_needs_somebody(self):
        tip = self.tip_at(self.center("net-7"))
        for words in ("Halt switch", "47.6 W", "79.3 % of its PoE budget at night", "warning"):
            self.assertIn(words, tip)
        between = (self.widget.rect_of("net-1").right() + self.widget.rect_of("net-2").left()) / 2
        line = next(line for line in self.widget.shown.lines if line.links == ("link-38",))
        middle = self.widget.middle_of(line.id)
        self.assertAlmostEqual(middle.x(), between, delta=3)
        self.assertIn("4.5 of 1\u2009000 Mb/s", self.tip_at(middle))

    def test_the_wheel_pans_and_with_ctrl_zooms_about_the_pointer(self):
        def turn(modifier):
            at = self.center("net-2")
            event = QWheelEvent(
                at, at, QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton, modifier, Qt.ScrollPhase.NoScrollPhase, False
            )
            QApplication.sendEvent(self.widget.viewport(), event)

        self.widget.zoom_by(2)
        before = self.widget.rect_of("net-2")
        turn(Qt.KeyboardModifier.NoModifier)
        self.assertEqual(self.widget.rect_of("net-2").top() - before.top(), 60)
        turn(Qt.KeyboardModifier.ControlModifier)
        after = self.widget.rect_of("net-2")
        self.assertGreater(after.width(), before.width())
        self.assertAlmostEqual(after.center().x(), before.center().x(), delta=1)

    def test_devices_are_dropped_from_tables_on_devices_only(self):
        dropped = []
        self.widget.dropped.connect(lambda ids, on: dropped.append((ids, on)))
        mime = devices_mime(["cam-1", "cam-2"])
        actions, buttons, none = Qt.DropAction.MoveAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        pile = next(box.id for box in self.widget.shown.boxes.values() if box.title == "Tea room")
        for target in (pile, "net-3"):
            # The application passes drags on only while a real one is under way.
            self.widget.dragMoveEvent(QDragMoveEvent(self.center(target).toPoint(), actions, mime, buttons, none))
            self.widget.dropEvent(QDropEvent(self.center(target), actions, mime, buttons, none))
        self.assertEqual(dropped, [(["cam-1", "cam-2"], "net-3")])

    def test_double_click_opens_a_pile_and_shows_all_on_the_ground(self):
        toggled = []
        self.widget.toggled.connect(toggled.append)
        self.widget.zoom_by(2.5)
        pile = next(box.id for box in self.widget.shown.boxes.values() if box.title == "Depot yard")
        self.widget.lead_to(pile)
        QTest.mouseDClick(self.widget.viewport(), Qt.MouseButton.LeftButton, pos=self.center(pile).toPoint())
        self.assertEqual(toggled, [pile])
        self.widget.see_all()
        inside = [self.widget.rect().contains(self.widget.rect_of(box)) for box in self.widget.shown.boxes]
        self.assertTrue(all(inside))

    def test_load_widens_a_line_and_a_full_one_warms(self):
        widths = [line_width(load) for load in (0, 4, 40, 400, 4000)]
        self.assertEqual(widths, sorted(widths))
        self.assertLessEqual(widths[-1], 9)
        self.assertEqual(look.heat(0.1).name(), look.color("accent").name())
        self.assertEqual(look.heat(1.0).name(), look.color("need").name())
        reds = [look.heat(share).red() for share in (0.3, 0.6, 0.8, 1.0)]
        self.assertEqual(reds, sorted(reds))

    def test_what_is_not_lost_is_greyed(self):
        def ink(box_id):
            image = self.widget.grab().toImage().convertToFormat(QImage.Format.Format_Grayscale8)
            rect = self.widget.rect_of(box_id)
            return min(
                image.pixelColor(x, rect.top() + 12).lightness() for x in range(rect.left() + 8, rect.right() - 20)
            )

        dark = ink("net-2")
        self.widget.show_lost(frozenset({"net-3"}))
        self.assertGreater(ink("net-2"), dark + 60)


class Sentences(unittest.TestCase):
    def setUp(self):
        job = job_with(
            [camera(1), camera(2)],
            recorders=[recorder()],
            network=(switch(1),),
            power_units=(PowerUnit(id="pow-1", name="Supply", feeds=("cam-1",)),),
            links=(Link(id="l", a="cam-1", b="net-1"),),
        )
        self.facts = assess(job).facts

    def test_parts_are_called_by_name(self):
        names = [part_name(part, self.facts) for part in ("net-1", "l", "pow-1")]
        self.assertEqual(names, ["Switch 1", "Camera 1 to Switch 1", "Supply"])

    def test_what_a_part_takes_is_one_sentence(self):
        for stopped, unseen, words in (
            ((), (), "recording and remote viewing go on everywhere."),
            (("cam-1",), (), "1 camera stops recording: Camera 1."),
            (("cam-1", "cam-2"), (), "2 cameras stop recording: Camera 1 and Camera 2."),
            ((), ("cam-1",), "1 camera can no longer be viewed remotely."),
        ):
            sentence = what_it_takes(Failure("net-1", frozenset(stopped), frozenset(unseen)), self.facts)
            self.assertEqual(sentence, f"If Switch 1 fails, {words}")


class RadioPath(SessionCase):
    def test_it_tells_its_clearances_to_who_does_not_see_it(self):
        widget = Elevation()
        widget.resize(400, 160)
        widget.show_path(None)
        widget.grab()
        widget.show_path(Path(900, 5.5, 5, 8, ((240, 4.4),), ("Near", "Far")))
        self.assertEqual(widget.accessibleDescription(), "at 240 m 1.39 of 1.86 m clearance")
        picture = widget.grab().toImage()
        colors = {picture.pixelColor(x, y).name() for x in range(0, 400, 2) for y in range(0, 160, 2)}
        self.assertIn(look.color("ink").name(), colors)
        widget.show_path(Path(900, 5.5, 0, 0, (), ("Near", "Far")))
        widget.grab()
        self.assertEqual(widget.accessibleDescription(), "no obstacle")


if __name__ == "__main__":
    unittest.main()
