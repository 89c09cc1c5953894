"""A rule tried in the real window: looked at, zones drawn, a better one suggested and taken over, in one step each."""

import unittest
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from eager_lens.core.motion.rule import MovementRule, Zone
from eager_lens.desk.pages.movement.page import TRY
from eager_lens.desk.pages.movement.try_view import AFTER
from tests.desk.base import WindowCase
from tests.support import camera, job_with

CORNERS = ((0.1, 0.1), (0.4, 0.1), (0.4, 0.5), (0.1, 0.5))


class TryCase(WindowCase):
    def setUp(self):
        super().setUp()
        for name, value in (("QUICK_STRETCHES", 8), ("QUICK_VISITS", 6)):
            patch = mock.patch(f"eager_lens.core.motion.day.{name}", value)
            patch.start()
            self.addCleanup(patch.stop)

    def open_try(self, job=None, chosen=("cam-1",)):
        self.page = self.open_job(job or job_with([camera(1), camera(2)]), "movement")
        self.session.choose(chosen)
        self.page.show_view(TRY)
        self.wait_for_work()
        self.view = self.page.trying
        return self.view

    def camera(self, at=0):
        return self.session.job.cameras[at]


class Looking(TryCase):
    def test_a_look_tells_false_alarms_and_misses_with_their_error(self):
        self.open_try()
        self.assertIn("not tried with these settings yet", self.view._words.text())
        self.press(self.page, "Try it")
        self.wait_for_work()
        self.assertRegex(self.view._words.text(), r"\d ± [\d.]+ false alarms an hour, \d of 6 visits missed")
        self.assertEqual([one.name for one in self.view.day._rows], ["Really there", "Caught", "False"])
        self.view.day.setFocus()
        before = self.view.day._at_s
        self.key(self.view.day, Qt.Key.Key_Right)
        self.assertNotEqual(self.view.day._at_s, before)

    def test_settings_that_change_make_the_look_old(self):
        self.open_try()
        self.press(self.page, "Try it")
        self.wait_for_work()
        field = self.view.bar.fields["sensitivity"]
        field.setText("30")
        self.key(field, Qt.Key.Key_Return)
        self.assertEqual(self.camera().rule.sensitivity, 30)
        self.assertIn("not tried with these settings yet", self.view._words.text())
        self.session.undo()
        self.assertIsNone(self.camera().rule)

    def test_it_can_be_stopped(self):
        self.open_try()
        self.view.extent.setCurrentIndex(1)
        self.press(self.page, "Try it")
        self.assertTrue(self.view.busy.is_running)
        self.press(self.page, "Stop")
        self.wait_for_work()
        self.assertFalse(self.view.busy.is_running)

    def test_nonsense_is_told_and_nothing_changes(self):
        self.open_try()
        before = self.session.job
        for name, text, words in (("smallest_m", "tall", "smallest_m"), ("smallest_m", "20", "not under the largest")):
            field = self.view.bar.fields[name]
            field.setText(text)
            self.key(field, Qt.Key.Key_Return)
            self.assertIn(words, self.last_notice())
        self.assertIs(self.session.job, before)

    def test_without_a_camera_it_says_what_to_do(self):
        self.open_try(job_with([]), chosen=())
        self.assertIn("Add a camera first", self.view._words.text())
        self.assertFalse(self.view.look_button.isEnabled())

    def test_its_events_become_the_cameras(self):
        self.open_try()
        self.press(self.page, "Try it")
        self.wait_for_work()
        before = self.camera().events_per_h
        self.view.show_panel(AFTER)
        self.press(self.page, "Take its events over")
        self.assertNotEqual(self.camera().events_per_h, before)
        self.assertIn("as tried", self.session.undo_label)
        self.assertIn("Depot yard", self.camera().events_from)


class Zones(TryCase):
    def test_a_dragged_rectangle_is_left_out_for_all_chosen(self):
        self.open_try(chosen=("cam-1", "cam-2"))
        area = self.view.scene.area()
        points = [
            (round(area.left() + x * area.width()), round(area.top() + y * area.height()))
            for x, y in ((0.1, 0.1), (0.4, 0.5))
        ]
        self.drag(self.view.scene, *points)
        for one in self.session.job.cameras:
            (zone,) = one.rule.zones
            self.assertTrue(zone.leave_out)
            self.assertAlmostEqual(zone.corners[2][0], 0.4, delta=0.02)
        self.session.undo()
        self.assertIsNone(self.camera(1).rule)

    def test_a_press_is_no_zone(self):
        self.open_try()
        self.click(self.view.scene, (40, 40))
        self.assertIsNone(self.camera().rule)

    def test_by_keyboard_a_zone_is_moved_and_taken_away(self):
        rule = MovementRule(zones=(Zone(corners=CORNERS, leave_out=True),))
        self.open_try(job_with([camera(1, rule=rule)]))
        self.view.scene.setFocus()
        self.key(self.view.scene, Qt.Key.Key_Space)
        self.key(self.view.scene, Qt.Key.Key_Right)
        self.assertAlmostEqual(self.camera().rule.zones[0].corners[0][0], 0.12)
        for _ in range(60):
            self.key(self.view.scene, Qt.Key.Key_Left)
        self.assertAlmostEqual(self.camera().rule.zones[0].corners[0][0], 0.0, msg="it stays in the picture")
        self.key(self.view.scene, Qt.Key.Key_Delete)
        self.assertEqual(self.camera().rule.zones, ())

    def test_look_only_here(self):
        self.open_try()
        self.view.tool.setCurrentIndex(1)
        self.view.scene.drawn.emit(CORNERS)
        QApplication.processEvents()
        self.assertFalse(self.camera().rule.zones[0].leave_out)


class Suggesting(TryCase):
    def test_a_better_rule_is_proposed_with_its_proof_and_taken_over_as_one_step(self):
        self.open_try()
        self.press(self.page, "Suggest a better rule")
        for _ in range(4):
            self.wait_for_work()
        proposal = self.view.proposal
        self.assertIsNotNone(proposal)
        words = self.view.result.proof.text()
        self.assertIn("→", words)
        if not proposal.is_better:
            self.assertIn("Nothing better was found", words)
            return
        self.assertIn("On days not seen before", words)
        self.press(self.page, "Take the rule over")
        self.assertEqual(self.camera().rule, proposal.rule)
        self.session.undo()
        self.assertIsNone(self.camera().rule)


if __name__ == "__main__":
    unittest.main()
