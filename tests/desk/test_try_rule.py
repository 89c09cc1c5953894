"""A rule tried in the real window: looked at, zones drawn, a better one suggested and taken over, in one step each."""

import shutil
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QPoint, Qt, QThreadPool
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from tools.trial.windows import work_ended

from eager_lens.core.motion.tuning.takes import Plan
from eager_lens.core.values.motion_rule import MotionRule, Zone
from eager_lens.desk.pages.motion.page import TRY
from eager_lens.desk.pages.motion.try_view import AFTER, WEATHER
from tests.desk.base import WindowCase
from tests.support import camera, job_with, takes_long

SMALL = Plan(days=2, stretches=3, stretch_s=30.0, visits=4)

CORNERS = ((0.1, 0.1), (0.4, 0.1), (0.4, 0.5), (0.1, 0.5))


class TryCase(WindowCase):
    def setUp(self):
        super().setUp()
        for name, value in (
            ("motion.day.QUICK_STRETCHES", 8),
            ("motion.day.QUICK_VISITS", 6),
            ("motion.tuning.selecting.SENSITIVITIES", (30.0, 50.0, 62.0)),
            ("motion.tuning.search.TO_SELECT", SMALL),
            ("motion.tuning.search.TO_PROVE", SMALL),
            ("workers.MOST", 1),
        ):
            self.replace(f"eager_lens.core.{name}", value)

    def open_try(self, job=None, selected=("cam-1",)):
        self.page = self.open_job(
            job or job_with([camera(1, scene="yard-dark"), camera(2, scene="yard-dark")]), "motion"
        )
        self.session.select(selected)
        self.page.show_view(TRY)
        self.wait_for_work()
        self.view = self.page.trying
        return self.view

    def camera(self, at=0):
        return self.session.job.cameras[at]


class Looking(TryCase):
    def test_a_look_tells_false_alarms_and_misses_with_their_error(self):
        self.open_try()
        self.assertIn("Not tried with these settings yet", self.view._words.text())
        self.press(self.page, "Try it")
        self.wait_for_work()
        self.assertRegex(self.view._words.text(), r"\d ± [\d.]+ false alarms an hour, \d of 6 visits missed")
        self.assertEqual([one.name for one in self.view.day._rows], ["Truth", "Caught", "False"])
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
        self.assertEqual(self.camera().motion_rule.sensitivity, 30)
        self.assertIn("Not tried with these settings yet", self.view._words.text())
        self.session.undo()
        self.assertIsNone(self.camera().motion_rule)

    def test_it_can_be_stopped(self):
        self.open_try()
        self.view.extent.setCurrentIndex(1)
        self.press(self.page, "Try it")
        self.assertTrue(self.view.work.busy.is_running)
        self.press(self.page, "Stop")
        self.wait_for_work()
        self.assertFalse(self.view.work.busy.is_running)

    def test_closing_the_window_stops_what_runs(self):
        self.open_try()
        with mock.patch("eager_lens.core.motion.day.QUICK_STRETCHES", 400):
            self.press(self.page, "Try it")
            pool = QThreadPool.globalInstance()
            self.until(lambda: pool.activeThreadCount() > 0)
            self.window.close()
            self.assertTrue(work_ended(pool, 60), "it went on for nobody")

    def test_nonsense_is_told_and_nothing_changes(self):
        self.open_try()
        before = self.session.job
        for name, text, words in (("smallest_m", "tall", "Smallest"), ("smallest_m", "20", "not under the largest")):
            field = self.view.bar.fields[name]
            field.setText(text)
            self.key(field, Qt.Key.Key_Return)
            self.assertIn(words, self.last_notice())
        self.assertIs(self.session.job, before)

    def test_without_a_camera_it_says_what_to_do(self):
        self.open_try(job_with([]), selected=())
        self.assertIn("Add a camera first", self.view._words.text())
        self.assertFalse(self.view.look_button.isEnabled())

    def test_its_events_become_the_cameras(self):
        self.open_try()
        self.press(self.page, "Try it")
        self.wait_for_work()
        before = self.camera().events_per_h
        self.view.show_panel(AFTER)
        self.press(self.page, "Use these events")
        self.assertNotEqual(self.camera().events_per_h, before)
        self.assertIn("as tried", self.session.undo_label)
        self.assertIn("Depot yard", self.camera().events_from)


class WhichCamera(TryCase):
    def test_it_is_selected_on_the_page_and_by_keyboard(self):
        view = self.open_try()
        self.assertEqual([view.camera.itemText(at) for at in range(2)], ["Camera 1", "Camera 2"])
        view.camera.setFocus()
        self.key(view.camera, Qt.Key.Key_Down)
        self.assertEqual((self.session.selected, view.editor.camera().id), (("cam-2",), "cam-2"))
        self.session.select(("cam-1",))
        self.assertEqual(view.camera.currentText(), "Camera 1")


class Zones(TryCase):
    def test_a_dragged_rectangle_is_left_out_for_all_chosen(self):
        self.open_try(selected=("cam-1", "cam-2"))
        area = self.view.scene.area()
        points = [
            (round(area.left() + x * area.width()), round(area.top() + y * area.height()))
            for x, y in ((0.1, 0.1), (0.4, 0.5))
        ]
        self.drag(self.view.scene, *points)
        for one in self.session.job.cameras:
            (zone,) = one.motion_rule.zones
            self.assertTrue(zone.leave_out)
            self.assertAlmostEqual(zone.corners[2][0], 0.4, delta=0.02)
        self.session.undo()
        self.assertIsNone(self.camera(1).motion_rule)

    def test_a_press_is_no_zone(self):
        self.open_try()
        self.click(self.view.scene, (40, 40))
        self.assertIsNone(self.camera().motion_rule)

    def test_by_keyboard_a_zone_is_moved_and_taken_away(self):
        rule = MotionRule(zones=(Zone(corners=CORNERS, leave_out=True),))
        self.open_try(job_with([camera(1, motion_rule=rule)]))
        self.view.scene.setFocus()
        self.key(self.view.scene, Qt.Key.Key_Space)
        self.key(self.view.scene, Qt.Key.Key_Right)
        self.assertAlmostEqual(self.camera().motion_rule.zones[0].corners[0][0], 0.12)
        for _ in range(60):
            self.key(self.view.scene, Qt.Key.Key_Left)
        self.assertAlmostEqual(self.camera().motion_rule.zones[0].corners[0][0], 0.0, msg="it stays in the picture")
        self.key(self.view.scene, Qt.Key.Key_Delete)
        self.assertEqual(self.camera().motion_rule.zones, ())

    def test_look_only_here(self):
        self.open_try()
        self.view.tool.setCurrentIndex(1)
        self.view.scene.drawn.emit(CORNERS)
        QApplication.processEvents()
        self.assertFalse(self.camera().motion_rule.zones[0].leave_out)

    def at(self, x, y):
        area = self.view.scene.area()
        return round(area.left() + x * area.width()), round(area.top() + y * area.height())

    def with_zone(self):
        rule = MotionRule(zones=(Zone(corners=CORNERS, leave_out=True),))
        self.open_try(job_with([camera(1, motion_rule=rule)]))
        return self.view.scene

    def zone(self):
        return self.camera().motion_rule.zones[0].corners

    def test_a_corner_is_dragged(self):
        scene = self.with_zone()
        self.click(scene, self.at(0.25, 0.3))
        self.drag(scene, self.at(0.4, 0.5), self.at(0.6, 0.7))
        self.assertAlmostEqual(self.zone()[2][0], 0.6, delta=0.02)
        self.assertEqual(self.zone()[0], CORNERS[0])
        self.session.undo()
        self.assertEqual(self.zone(), CORNERS)

    def test_a_zone_is_moved_as_a_whole(self):
        scene = self.with_zone()
        self.drag(scene, self.at(0.25, 0.3), self.at(0.35, 0.3))
        self.assertAlmostEqual(self.zone()[0][0], 0.2, delta=0.02)
        self.assertAlmostEqual(self.zone()[1][0] - self.zone()[0][0], 0.3)

    def test_a_corner_that_would_cross_the_zone_is_refused_and_nothing_is_lost(self):
        scene = self.with_zone()
        self.click(scene, self.at(0.25, 0.3))
        self.drag(scene, self.at(0.4, 0.1), self.at(0.25, 0.7))
        self.assertIn("crosses itself", self.last_notice())
        self.assertEqual(self.zone(), CORNERS)

    def test_a_corner_is_added_by_double_click(self):
        scene = self.with_zone()
        QTest.mouseDClick(scene, Qt.MouseButton.LeftButton, pos=QPoint(*self.at(0.25, 0.12)))
        self.assertEqual(len(self.zone()), 5)

    def test_the_whole_of_it_by_keyboard(self):
        scene = self.with_zone()
        scene.setFocus()
        for key in (Qt.Key.Key_Space, Qt.Key.Key_C, Qt.Key.Key_C, Qt.Key.Key_Down, Qt.Key.Key_Plus):
            self.key(scene, key)
        self.assertAlmostEqual(self.zone()[1][1], 0.12)
        self.assertEqual(len(self.zone()), 5)
        self.key(scene, Qt.Key.Key_Delete)
        self.assertEqual(len(self.zone()), 4, "the corner that was selected went, not the zone")
        self.key(scene, Qt.Key.Key_N)
        self.assertEqual(len(self.camera().motion_rule.zones), 2)

    def test_with_ctrl_a_new_zone_begins_inside_another(self):
        scene = self.with_zone()
        QTest.mousePress(
            scene, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, QPoint(*self.at(0.2, 0.2))
        )
        self._move(scene, QPoint(*self.at(0.3, 0.3)), Qt.MouseButton.LeftButton)
        QTest.mouseRelease(scene, Qt.MouseButton.LeftButton, pos=QPoint(*self.at(0.3, 0.3)))
        self.assertEqual(len(self.camera().motion_rule.zones), 2)


class Lines(TryCase):
    def test_a_line_is_drawn_turned_and_taken_away(self):
        self.open_try()
        self.view.tool.setCurrentIndex(2)
        area = self.view.scene.area()
        points = [(round(x * area.width()), round(y * area.height())) for x, y in ((0.2, 0.8), (0.8, 0.8))]
        self.drag(self.view.scene, *points)
        self.assertAlmostEqual(self.camera().motion_rule.line.ends[0], 0.8, delta=0.02)
        self.view.bar.direction.setCurrentText("to the left")
        self.assertEqual(self.camera().motion_rule.line.direction, "to the left")
        self.view.scene.setFocus()
        self.key(self.view.scene, Qt.Key.Key_Space)
        self.key(self.view.scene, Qt.Key.Key_Up)
        self.assertAlmostEqual(self.camera().motion_rule.line.begins[1], 0.78, delta=0.02)
        self.key(self.view.scene, Qt.Key.Key_Delete)
        self.assertIsNone(self.camera().motion_rule.line)

    def test_kinds_are_ticked(self):
        self.open_try()
        self.view.bar._ticks["person"].trigger()
        self.view.bar._ticks["vehicle"].trigger()
        self.assertEqual(self.camera().motion_rule.kinds, ("person", "vehicle"))
        self.assertEqual(self.view.bar.kinds.text(), "Objects: person, vehicle")
        self.view.bar._ticks["person"].trigger()
        self.assertEqual(self.camera().motion_rule.kinds, ("vehicle",))


class Sizes(TryCase):
    def test_while_a_size_is_typed_it_stands_on_the_ground(self):
        self.open_try()
        field = self.view.bar.fields["largest_m"]
        field.setFocus()
        QApplication.processEvents()
        sticks = self.view.scene._sticks
        self.assertEqual(len(sticks), 6)
        near, far = sticks[0], sticks[-2]
        self.assertGreater(near.high, 2 * far.high)
        self.assertGreater(near.foot[1], far.foot[1])
        self.assertEqual(near.words, "0.4 m")
        self.assertRegex(sticks[1].words, "8 m, [\\d.]+ m away")
        self.assertTrue(all(0 <= stick.foot[0] <= 1 and stick.foot[1] <= 1 for stick in sticks))
        self.view.scene.setFocus()
        QApplication.processEvents()
        self.assertEqual(self.view.scene._sticks, ())


class SavedRules(TryCase):
    def test_a_rule_is_saved_given_to_others_and_forgotten(self):
        rule = MotionRule(sensitivity=20)
        self.open_try(job_with([camera(1, motion_rule=rule), camera(2), camera(3)]))
        self.press(self.page, "Save as…")
        self.view.bar.name.setText("Yards in wind")
        self.key(self.view.bar.name, Qt.Key.Key_Return)
        self.assertEqual([one.name for one in self.session.job.rules], ["Yards in wind"])
        self.session.select(["cam-2", "cam-3"])
        QApplication.processEvents()
        self.view.bar.names.setCurrentIndex(1)
        self.view.bar.names.activated.emit(1)
        self.assertEqual([one.motion_rule for one in self.session.job.cameras], [rule] * 3)
        self.press(self.page, "Remove")
        self.assertEqual(self.session.job.rules, ())
        self.assertEqual(self.camera(2).motion_rule, rule)

    def test_without_a_name_it_is_refused(self):
        self.open_try()
        self.press(self.page, "Save as…")
        self.key(self.view.bar.name, Qt.Key.Key_Return)
        self.assertIn("give the rule a name", self.last_notice())

    def test_a_card_is_written(self):
        self.open_try()
        target = self.folder / "card.pdf"
        self.window.asker.files = [target]
        self.press(self.page, "Rule card…")
        self.assertTrue(target.read_bytes().startswith(b"%PDF"))
        self.window.asker.files = [self.folder / "no" / "card.pdf"]
        self.press(self.page, "Rule card…")
        self.assertIn("card.pdf", self.last_notice())


class Weathers(TryCase):
    def test_a_knob_makes_the_look_old_and_the_own_weather_comes_back(self):
        self.open_try()
        self.press(self.page, "Try it")
        self.wait_for_work()
        self.view.show_panel(WEATHER)
        field = self.view.weather.fields["wind_m_per_s"]
        field.setText("12")
        self.key(field, Qt.Key.Key_Return)
        self.wait_for_work()
        self.assertEqual(self.camera().tried_weather.wind_m_per_s, 12)
        self.assertIn("Not tried with these settings yet", self.view._words.text())
        self.press(self.page, "The scene's own weather")
        self.assertIsNone(self.camera().tried_weather)

    def test_shares_are_typed_in_per_cent_and_nonsense_is_told(self):
        self.open_try()
        self.view.show_panel(WEATHER)
        for text, words in (("120", "cloud"), ("overcast", "Clouds")):
            field = self.view.weather.fields["cloud"]
            field.setText(text)
            self.key(field, Qt.Key.Key_Return)
            self.assertIn(words.lower(), self.last_notice().lower())
        self.assertIsNone(self.camera().tried_weather)

    @takes_long
    @mock.patch("eager_lens.core.motion.day.QUICK_STRETCHES", 4)
    @mock.patch("eager_lens.core.motion.day.QUICK_VISITS", 2)
    def test_a_windy_week_is_seven_rows(self):
        self.open_try()
        self.view.extent.setCurrentIndex(2)
        self.press(self.page, "Try it")
        for _ in range(3):
            self.wait_for_work()
        self.assertEqual(len(self.view.day._rows), 7)
        self.assertIn("windy week", self.view._words.text())
        self.assertRegex(self.view.result.causes.text(), r"alarms? in 14 min")
        self.view.day.picked.emit(40_000.0, 6)
        self.assertEqual(self.view.work.source.weekday, 6)


class Watching(TryCase):
    def looked(self):
        self.open_try()
        self.press(self.page, "Try it")
        self.wait_for_work()
        return self.view.player

    def test_jumping_from_one_false_alarm_to_the_next(self):
        player = self.looked()
        alarms = self.view.work.outcome().alarms
        self.assertTrue(alarms)
        self.view.show_moment(0.0)
        self.click(player.next_false)
        self.assertAlmostEqual(player.at_s, max(0.0, alarms[0].begins_s - 1))
        self.click(player.last_false)
        self.assertAlmostEqual(player.at_s, alarms[-1].begins_s - 1)
        self.assertFalse(player.next_miss.isEnabled(), "nobody was missed")

    def test_playing_goes_on_and_stops(self):
        player = self.looked()
        self.view.show_moment(40_000.0)
        self.click(player.play)
        for _ in range(3):
            player._on()
        self.assertAlmostEqual(player.at_s, 40_000.6)
        self.click(player.play)
        self.assertFalse(player._timer.isActive())

    def test_the_steps_of_the_detector_are_pictures_with_words(self):
        player = self.looked()
        begins_s = self.view.work.outcome().alarms[0].begins_s
        self.view.show_moment(begins_s)
        seen = set()
        for at in range(player.step.count()):
            player.step.setCurrentIndex(at)
            seen.add(self.view.scene.accessibleDescription())
        self.assertEqual(len(seen), 5)
        self.assertTrue(any("counts" in mark.words for mark in self.view.scene._marks))


class OnAClip(TryCase):
    @classmethod
    def setUpClass(cls):
        from eager_lens.core.motion.places import presets
        from eager_lens.core.motion.scene import DrawnScene
        from tests.clips import write_scene

        super().setUpClass()
        folder = Path(tempfile.mkdtemp())
        cls.addClassCleanup(shutil.rmtree, folder)
        cls.written = write_scene(folder / "yard.mp4", DrawnScene(presets()["yard"], 1), 46_800, 40.0)

    def setUp(self):
        super().setUp()
        self.clip = Path(shutil.copy(self.written, self.folder))

    def open_clip(self):
        self.open_try()
        self.window.asker.files = [self.clip]
        self.view.view.setCurrentIndex(self.view.view.count() - 1)
        self.view.view.activated.emit(self.view.view.count() - 1)
        self.wait_for_work()

    def test_a_clip_is_opened_marked_and_tried(self):
        self.open_clip()
        self.assertEqual(self.camera().tried_clip.path, str(self.clip))
        self.press(self.page, "Leaves here")
        self.assertIn("Mark first the moment of appearing", self.last_notice())
        self.view.show_moment(14.0)
        self.press(self.page, "Appears here")
        self.view.show_moment(22.0)
        self.press(self.page, "Leaves here")
        (mark,) = self.camera().tried_clip.marks
        self.assertEqual((mark.begins_s, mark.ends_s, mark.kind), (14.0, 22.0, "person"))
        self.wait_for_work()
        self.press(self.page, "Try it")
        self.wait_for_work()
        self.assertIn("of 1 visit missed", self.view._words.text())
        self.assertEqual(self.view.day._rows[-1].name, "Recorded")
        self.assertIn("The formula gives", self.view.result.causes.text())
        self.press(self.page, "Remove")
        self.assertEqual(self.camera().tried_clip.marks, ())

    def test_the_horizon_is_typed_in_per_cent(self):
        self.open_clip()
        field = self.view.marks.horizon
        field.setText("40")
        self.key(field, Qt.Key.Key_Return)
        self.assertAlmostEqual(self.camera().tried_clip.horizon, 0.4)

    def test_a_file_that_is_no_clip_is_told(self):
        self.clip.write_bytes(b"nothing to see")
        self.open_clip()
        self.assertIn("not a video that can be read", self.last_notice())

    def test_no_file_chosen_changes_nothing(self):
        self.open_try()
        before = self.session.job
        self.view.view.setCurrentIndex(self.view.view.count() - 1)
        self.view.view.activated.emit(self.view.view.count() - 1)
        self.assertIs(self.session.job, before)
        self.assertEqual(self.view.view.currentData(), "yard")


class SecondsAfter(TryCase):
    def test_they_are_set_from_the_gaps(self):
        self.open_try(job_with([camera(1, post_recording_s=60)]))
        self.view.show_panel(AFTER)
        self.assertIn("Try the rule first", self.view.after.words.text())
        self.press(self.page, "Try it")
        self.wait_for_work()
        self.assertRegex(self.view.after.words.text(), r"\d+ % of the visits are in one clip")
        self.click(self.view.after.set_after)
        self.assertLess(self.camera().post_recording_s, 60)

    def test_events_typed_in_are_measured_no_longer(self):
        self.open_try(job_with([camera(1, events_from="tried in “Depot yard”")]))
        self.page.show_view(0)
        self.put_cell(self.page.cameras, 0, "events_per_h", "9")
        self.assertEqual((self.camera().events_per_h, self.camera().events_from), (9, ""))


class Suggesting(TryCase):
    def test_the_cameras_own_scene_is_the_one_that_is_tried_in(self):
        self.open_try(job_with([camera(1, scene="concourse"), camera(2, scene="hall", tried_in="fence")]))
        self.assertEqual(self.view.view.currentText(), "Kiosk queue under a flag")
        self.session.select(["cam-2"])
        QApplication.processEvents()
        self.assertEqual(self.view.view.currentData(), "fence", "what was selected by hand stays")

    def test_stopped_in_its_proof_it_keeps_what_was_found(self):
        self.open_try()
        self.press(self.page, "Suggest a better rule")
        proof = "eager_lens.core.motion.tuning.search.proved"

        def endless(takes, rules, workers):
            while True:
                yield 0.5

        with mock.patch(proof, endless):
            self.until(lambda: self.view.work.busy.bar.value() > 65)
            self.press(self.page, "Stop")
            self.wait_for_work()
        self.assertIsNone(self.view.work.proposal.after)
        self.assertIn("Stopped before the check", self.view.result.proof.text())
        self.assertFalse(self.view.result.take.isVisible(), "what is not proved is not urged")
        self.assertGreater(len(self.view.result.chart._tried), 10)

    def test_how_long_it_takes_is_told(self):
        self.open_try()
        busy = self.view.work.busy
        with mock.patch("eager_lens.desk.widgets.busy.LEFT_AFTER_S", 0.0):
            self.press(self.page, "Suggest a better rule")
            self.until(lambda: "left" in busy.left.text())
            self.assertRegex(busy.left.text(), r"about \d+ s left")
            self.press(self.page, "Stop")
        self.wait_for_work()
        self.assertFalse(busy.left.isVisible())

    def test_a_better_rule_is_proposed_with_its_proof_and_taken_over_as_one_step(self):
        self.open_try()
        self.press(self.page, "Suggest a better rule")
        for _ in range(4):
            self.wait_for_work()
        proposal = self.view.work.proposal
        self.assertIsNotNone(proposal)
        words = self.view.result.proof.text()
        self.assertIn("→", words)
        if not proposal.is_better:
            self.assertIn("No better rule was found", words)
            return
        self.assertIn("On days not seen before", words)
        self.press(self.page, "Apply this rule")
        self.assertEqual(self.camera().motion_rule, proposal.rule)
        self.wait_for_work()
        self.session.undo()
        self.assertIsNone(self.camera().motion_rule)


class Chart(TryCase):
    @takes_long
    def test_a_setting_of_the_curve_is_taken_by_keyboard(self):
        self.open_try()
        self.press(self.page, "Suggest a better rule")
        for _ in range(4):
            self.wait_for_work()
        chart = self.view.result.chart
        self.assertGreater(len(chart._tried), 10)
        chart.setFocus()
        self.key(chart, Qt.Key.Key_Right)
        fewest = min(range(len(chart._tried)), key=lambda at: chart._tried[at][:2])
        self.assertEqual(chart._at, fewest)
        rule = self.view.work.proposal.points[fewest].rule
        self.key(chart, Qt.Key.Key_Return)
        self.assertEqual(self.camera().motion_rule, rule)
        self.wait_for_work()
        self.assertIn("Apply a setting of the curve", self.session.undo_label)
        self.wait_for_work()
        self.assertEqual(len(chart._tried), len(self.view.work.proposal.points), "trying one keeps the others")
        (now,) = [spot for spot in chart._spots if spot.kind == "now"]
        self.assertEqual((now.false_per_h, now.missed_share), chart._tried[fewest][:2])


if __name__ == "__main__":
    unittest.main()
