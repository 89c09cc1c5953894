"""Measuring a clip in the real window: dropped, selected, taken, tried, refused."""

from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent

from eager_lens.core.clip.drawn import Drawn, frames_of, write_clip
from eager_lens.desk.pages.sizing.page import CLIP
from tests.core.clip.test_still import write_still
from tests.desk.base import WindowCase

SMALL = Drawn(width_px=160, height_px=96, fps=10, duration_s=4)


class Clip(WindowCase):
    def drop(self, page, path, at):
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path))])
        event = QDropEvent(
            QPointF(at), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
        page.dropEvent(event)
        self.wait_for_work()

    def found(self, page, name):
        return self.cell(page.clip.table, self.row_named(page.clip.table, name), "found")

    def test_dropped_on_a_camera_it_is_measured_and_taken_by_one_button(self):
        page = self.open_demo()
        row = self.row_named(page.cameras, "Road one")
        index = page.cameras.records.index(row, 0)
        page.cameras.scrollTo(index)
        at = page.cameras.viewport().mapTo(page, page.cameras.visualRect(index).center())
        self.drop(page, write_clip(self.folder / "road.mp4", SMALL), at)
        self.assertTrue(page.clip.chart.isVisible())
        self.assertEqual(self.found(page, "Picture"), "160 × 96 px")
        self.assertEqual(self.found(page, "Key-frame interval"), "2 s")
        self.assertIn("too short", page.clip._notes.text())
        self.press(page, "Use it for Road one")
        taken = next(camera for camera in self.session.job.cameras if camera.name == "Road one")
        self.assertAlmostEqual(taken.measured_mbps, page.clip.day.rate.rate_mbps)
        self.assertEqual(taken.fps, 10)
        self.session.undo()
        self.assertIsNone(next(c for c in self.session.job.cameras if c.name == "Road one").measured_mbps)

    def test_a_rate_typed_over_forgets_the_clip(self):
        page = self.open_demo()
        page.show_clip(write_clip(self.folder / "road.mp4", SMALL), "cam-3")
        self.wait_for_work()
        page.clip._take()
        page.show_cameras()
        self.put_cell(page.cameras, self.row_named(page.cameras, "Road one"), "rate", "2.5")
        camera = next(camera for camera in self.session.job.cameras if camera.id == "cam-3")
        self.assertEqual((camera.measured_mbps, camera.measured_low_mbps, camera.measured_from), (2.5, None, ""))

    def test_the_hour_that_the_file_says_is_proposed_and_can_be_put_right(self):
        page = self.open_demo()
        page.show_clip(write_clip(self.folder / "dusk.mp4", SMALL, begun="2026-01-03T22:40:00Z"), "cam-3")
        self.wait_for_work()
        self.assertEqual(page.clip._by_night.currentText(), "Recorded by night")
        self.assertIn("recorded 2026-01-03 22:40 according to the file, by night", page.clip._notes.text())
        self.assertFalse(page.clip._night.isVisible())
        page.clip._by_night.setFocus()
        self.key(page.clip._by_night, Qt.Key.Key_Up)
        self.assertTrue(page.clip._night.isVisible())
        self.press(page, "Use it for Road one")
        camera = next(camera for camera in self.session.job.cameras if camera.id == "cam-3")
        self.assertEqual(camera.measured_when, "day")

    def test_by_day_and_by_night(self):
        page = self.open_demo()
        self.session.select(["cam-3"])
        self.asker.files = [
            write_clip(self.folder / "day.mp4", SMALL),
            write_clip(self.folder / "night.mp4", SMALL._replace(noise_sigma=8)),
        ]
        page._show_tab(CLIP)
        self.press(page, "Select a clip")
        self.wait_for_work()
        self.press(page, "Add a night clip")
        self.wait_for_work()
        self.assertIn("Mb/s", self.found(page, "Bit rate at night"))
        self.press(page, "Use it for Road one")
        camera = next(camera for camera in self.session.job.cameras if camera.id == "cam-3")
        rates = page.clip.day.rate.rate_mbps, page.clip.night.rate.rate_mbps
        self.assertAlmostEqual(camera.measured_mbps, sum(rates) / 2)

    def test_other_settings_are_tried(self):
        page = self.open_demo()
        page.show_clip(write_clip(self.folder / "road.mp4", SMALL), "cam-3")
        self.wait_for_work()
        page.clip._fps.show_value(5)
        self.press(page, "Try")
        self.wait_for_work()
        trial_words = self.found(page, "Tried: 5 fps, 160 px, H.264, medium")
        self.assertIn("Mb/s, -", trial_words)
        page.clip._fps.show_value(50)
        self.press(page, "Try")
        self.wait_for_work()
        self.assertIn("record a clip at the larger settings", self.last_notice())
        self.assertFalse(page.clip._busy.bar.isVisible())

    def test_what_is_no_clip_is_told_and_nothing_applied(self):
        page = self.open_demo()
        before = self.session.job
        page.show_clip(self.write("broken.mp4", "no video"), "cam-3")
        self.wait_for_work()
        self.assertIn("broken.mp4: it is not a video that can be read", self.last_notice())
        self.assertIs(self.session.job, before)
        self.assertIsNone(page.clip.day)
        self.assertFalse(page.clip._accept.isVisible())

    def test_reading_can_be_stopped(self):
        page = self.open_demo()
        page.show_clip(write_clip(self.folder / "road.mp4", SMALL), "cam-3")
        page.clip._busy.stop_button.click()
        self.wait_for_work()
        self.assertFalse(page.clip._busy.bar.isVisible())
        self.assertTrue(page.clip._select.isVisible())

    def test_a_still_betters_the_assumption(self):
        page = self.open_demo()
        before = self.session.assessment.camera("cam-3")
        picture = next(frames_of(SMALL._replace(width_px=320, height_px=192)))
        page.show_clip(write_still(self.folder / "road.png", picture), "cam-3")
        self.wait_for_work()
        self.assertIn("Mb/s", self.found(page, "Estimated bit rate"))
        self.picture_of(page)
        self.press(page, "Use it for Road one")
        got = self.session.assessment.camera("cam-3")
        self.assertEqual(got.rate_origin, "assumed")
        self.assertNotEqual(got.rate_mbps, before.rate_mbps)
        self.session.undo()
        self.assertEqual(self.session.assessment.camera("cam-3").rate_mbps, before.rate_mbps)
