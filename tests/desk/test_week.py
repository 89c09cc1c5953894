"""The Week page in the real window: typed hours, alarms, a schedule of its own, the year, calendars, a recorder's picture."""

import unittest
from datetime import date

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.model import Schedule
from eager_lens.core.outgoing.formats.calendar import calendar_bytes
from eager_lens.core.recording.typed_dates import date_from, days_from
from eager_lens.core.recording.week import Span
from eager_lens.desk.pages.schedule.page import RECORDERS, YEAR
from tests.desk.base import WindowCase
from tests.support import camera, job_with, week_of


class ScheduleCase(WindowCase):
    def open_schedule(self, job=None, view=0):
        if job is None:
            job = job_with(
                [camera(1), camera(2)], schedules=(week_of("motion"), week_of(id="week-2", name="Continuous"))
            )
        self.page = self.open_job(job, "schedule")
        self.page.show_view(view)
        QApplication.processEvents()
        return self.page

    def schedule(self, at=0):
        return self.session.job.schedules[at]


class Typed(ScheduleCase):
    watches_windows = True

    def type(self, begins, ends, days):
        view = self.page.schedule
        for field, text in ((view.typed_from, begins), (view.typed_to, ends), (view.typed_days, days)):
            field.setText(text)
        self.key(view.typed_days, Qt.Key.Key_Return)

    def test_hours_are_typed_for_days(self):
        self.open_schedule()
        self.type("08:30", "18:15", "Thu-Sat")
        plan = self.schedule().plan
        self.assertIn(Span(510, 1095, "continuous"), plan.fri)
        self.assertEqual(plan.sun, (Span(0, 1440, "motion"),))
        self.assertEqual(self.session.undo_label, "Paint continuous")

    def test_hours_are_taken_as_people_type_them_and_written_out(self):
        self.open_schedule()
        self.type("830", "6.15 pm", "Thu-Sat")
        self.assertIn(Span(510, 1095, "continuous"), self.schedule().plan.fri)
        view = self.page.schedule
        self.assertEqual((view.typed_from.text(), view.typed_to.text()), ("08:30", "18:15"))

    def test_over_midnight_they_go_on_the_next_day(self):
        self.open_schedule()
        self.type("22:00", "02:00", "Sun")
        self.assertIn(Span(1320, 1440, "continuous"), self.schedule().plan.sun)
        self.assertIn(Span(0, 120, "continuous"), self.schedule().plan.mon)

    def test_nonsense_is_told_and_changes_nothing(self):
        self.open_schedule()
        before = self.session.job
        for given, words in (
            (("8 o'clock", "18:00", "Mon"), "no time of day"),
            (("08:00", "18:00", "Someday"), "no day of the week"),
            (("08:00", "08:00", "Mon"), "are equal"),
        ):
            self.type(*given)
            self.assertIn(words, self.last_notice())
        self.assertIs(self.session.job, before)

    def test_each_stroke_tells_what_it_costs(self):
        self.open_schedule()
        self.type("00:00", "24:00", "Mon")
        words = self.page.schedule._cost.words.text()
        self.assertRegex(words, r"The last stroke: \+\d+\.\d GB a day, -\d+ days promised\.")
        self.assertRegex(words, r"; [^,]+ days can be promised, [^,]+ are expected")
        self.session.undo()
        self.assertNotIn("The last stroke", self.page.schedule._cost.words.text(), "it was taken back")
        self.session.redo()
        self.assertIn("The last stroke", self.page.schedule._cost.words.text())
        self.session.apply(set_fields(["cam-1"], "More frames", fps=25))
        self.assertNotIn("The last stroke", self.page.schedule._cost.words.text(), "that was no stroke")

    def test_filling_leaves_what_is_there(self):
        job = job_with([camera(1)], schedules=(week_of("motion", 0, 6),))
        self.open_schedule(job)
        self.press(self.page, "Fill off hours")
        self.assertEqual(self.schedule().plan.mon, (Span(0, 360, "motion"), Span(360, 1440, "continuous")))

    def test_hours_that_a_file_calls_idle_are_idle(self):
        self.open_schedule(job_with([camera(1)], schedules=(week_of("off"),)))
        self.press(self.page, "Fill off hours")
        self.assertEqual(self.schedule().plan.mon, (Span(0, 1440, "continuous"),))


class InWords(ScheduleCase):
    def test_an_exception_is_typed_and_gets_a_schedule_that_fits(self):
        self.open_schedule()
        self.page.show_view(YEAR)
        self.wait_for_work()
        year = self.page.year
        before = self.session.job
        for text, words in (("closed at noon", "no date is in"), ("closed on 25 December", "every year")):
            year.said.setFocus()
            year.said.setText(text)
            self.key(year.said, Qt.Key.Key_Return)
            self.assertIn(words, self.last_notice())
        added = self.session.job.exceptions[-1]
        (schedule,) = [one for one in self.session.job.schedules if one.id == added.schedule]
        self.assertEqual([span.mode for span in schedule.plan.fri], ["motion"])
        self.session.undo()
        self.assertIs(self.session.job, before)


class Overlapping(ScheduleCase):
    def test_hours_that_are_added_join_what_is_there(self):
        page = self.open_schedule(job_with([camera(1)], schedules=(week_of("motion", 8, 18),)))
        page.schedule._set_brush("alarm input")
        page.schedule.typed_from.setText("16:00")
        page.schedule.typed_to.setText("20:00")
        page.schedule.typed_days.setText("Mon")
        self.press(page, "Add to schedule")
        self.press(page, "Paint")
        modes = [(span.start // 60, span.end // 60, span.mode) for span in self.schedule().plan.mon]
        self.assertEqual(modes, [(8, 16, "motion"), (16, 18, "motion or alarm"), (18, 20, "alarm input")])
        self.assertIn("motion or alarm 2 h", page.schedule._cost.words.text())
        self.session.undo()
        self.press(page, "Add to schedule")
        self.press(page, "Paint")
        self.assertEqual(
            [span.mode for span in self.schedule().plan.mon], ["motion", "alarm input"], "later wins otherwise"
        )

    def test_hours_on_either_are_painted_and_go_out_to_a_calendar(self):
        page = self.open_schedule(job_with([camera(1)], schedules=(Schedule(id="week-1", name="Nights"),)))
        self.press(page, "Motion or alarm")
        self.press(page, "Fill off hours")
        self.assertEqual({span.mode for span in self.schedule().plan.sun}, {"motion or alarm"})
        self.assertIn(b"CATEGORIES:motion or alarm", calendar_bytes(self.session.job, 2026))

    def test_what_is_kept_between_events_costs_at_once(self):
        page = self.open_schedule(job_with([camera(1)], schedules=(week_of("motion"),)))
        before = self.session.assessment.camera("cam-1").gb_per_day
        self.put_cell(page.cameras, 0, "kept_between_events", "key frames")
        self.assertEqual(self.session.job.cameras[0].kept_between_events, "key frames")
        self.assertGreater(self.session.assessment.camera("cam-1").gb_per_day, before)
        self.put_cell(page.cameras, 0, "input_pre_recording_s", "30")
        self.assertEqual(self.session.job.cameras[0].input_pre_recording_s, 30)
        self.put_cell(page.cameras, 0, "input_pre_recording_s", "")
        self.assertIsNone(self.session.job.cameras[0].input_pre_recording_s)


class Alarms(ScheduleCase):
    def test_they_have_hours_of_their_own(self):
        self.open_schedule()
        before = self.schedule().plan
        self.press(self.page, "Pop-up alarms")
        self.page.schedule.typed_days.setText("all")
        self.page.schedule.typed_from.setText("20:00")
        self.page.schedule.typed_to.setText("24:00")
        self.press(self.page, "Paint")
        self.assertEqual(self.schedule().alarms.wed, (Span(1200, 1440, "continuous"),))
        self.assertEqual(self.schedule().plan, before)
        self.assertIn("Alarms pop up in 28 of 168 h", self.page.schedule._cost.words.text())
        self.press(self.page, "Pop-up alarms")
        self.assertIn("motion 168 h", self.page.schedule._cost.words.text())

    def test_copying_a_day_copies_what_is_painted(self):
        self.open_schedule()
        self.press(self.page, "Pop-up alarms")
        self.page.strip.setFocus()
        self.key(self.page.strip, Qt.Key.Key_Return)
        self.press(self.page, "Copy this day to all")
        self.assertEqual(self.schedule().alarms.sun, self.schedule().alarms.mon)
        self.assertTrue(self.schedule().alarms.sun)


class ItsOwn(ScheduleCase):
    def test_one_camera_gets_a_copy(self):
        self.open_schedule()
        self.press(self.page, "Own schedule")
        self.assertIn("Select one camera", self.last_notice())
        self.session.select(["cam-2"])
        self.press(self.page, "Own schedule")
        self.assertEqual(self.session.job.cameras[1].schedule, "schedule-1")
        self.session.undo()
        self.assertEqual(len(self.session.job.schedules), 2)


class Year(ScheduleCase):
    def setUp(self):
        super().setUp()
        self.open_schedule(view=YEAR)
        self.year = self.page.year
        self.year.show_year(2026)
        QApplication.processEvents()

    def point(self, day):
        center = self.year.board.cell(day).center()
        return (round(center.x()), round(center.y()))

    def test_drag_over_days_and_add_a_season(self):
        self.drag(self.year.board, self.point(date(2026, 8, 3)), self.point(date(2026, 8, 14)))
        self.press(self.page, "Add an exception on")
        (exception,) = self.session.job.exceptions
        self.assertEqual((exception.first, exception.last), (date(2026, 8, 3), date(2026, 8, 14)))
        self.assertEqual((exception.instead_of, exception.schedule), ("week-1", "week-2"))
        self.assertIn("1 Exception 1", self.year._legend.text())
        self.assertIn("continuous 288 h", self.year._hours.text(), "twelve days of 24 h")
        self.session.undo()
        self.assertEqual(self.session.job.exceptions, ())

    def test_by_keyboard(self):
        board = self.year.board
        self.click(board, self.point(date(2026, 12, 24)))
        board.setFocus()
        self.key(board, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
        self.key(board, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
        self.key(board, Qt.Key.Key_Return)
        self.assertEqual(self.year._dates.text(), "24 Dec to 26 Dec")
        self.press(self.page, "Add an exception on")
        table = self.year.table
        self.put_cell(table, 0, "name", "Christmas")
        self.put_cell(table, 0, "yearly", "yes")
        self.put_cell(table, 0, "days", "Thu, Sat")
        self.put_cell(table, 0, "first", "20.12.2026")
        (exception,) = self.session.job.exceptions
        self.assertEqual((exception.name, exception.yearly, exception.days), ("Christmas", True, ("thu", "sat")))
        self.assertEqual(exception.first, date(2026, 12, 20))

    def test_wrong_dates_days_and_weeks_are_told(self):
        self.drag(self.year.board, self.point(date(2026, 8, 3)), self.point(date(2026, 8, 14)))
        self.press(self.page, "Add an exception on")
        table, before = self.year.table, self.session.job
        for column, text, words in (
            ("first", "soon", "wanted is a date"),
            ("last", "2026-01-01", "before its first"),
            ("days", "Funday", "no day of the week"),
            ("schedule", "Nowhere", "not a schedule of this job"),
        ):
            self.put_cell(table, 0, column, text)
            self.assertIn(words, self.last_notice())
        self.assertIs(self.session.job, before)
        table.selectRow(0)
        self.press(self.page, "Remove selected")
        self.assertEqual(self.session.job.exceptions, ())

    def test_the_days_on_which_clocks_change_are_marked(self):
        self.session.start_job(job_with([camera(1)], time_zone="Europe/London"))
        QApplication.processEvents()
        changes = {day for day, shown in self.year.board._days.items() if shown.minutes != 1440}
        self.assertEqual(changes, {date(2026, 3, 29), date(2026, 10, 25)})
        self.assertIn("clock changes (Europe/London)", self.year._legend.text())
        self.press(self.page, "›")
        self.assertEqual(self.year.year, 2027)

    def test_a_calendar_goes_out_and_comes_in_as_one_step(self):
        path = self.folder / "out.ics"
        self.asker.files = [path, path]
        self.press(self.page, "To a calendar")
        self.assertIn(b"BEGIN:VCALENDAR", path.read_bytes())
        self.press(self.page, "From a calendar")
        self.wait_for_work()
        events = self.year.events
        self.assertTrue(events.isVisible())
        self.assertIn("0 events of", events._words.text(), "all of it is already in the job")
        events.chosen["schedule-0"] = "a new schedule"
        events._show()
        before = self.session.job
        self.press(self.page, "Import 1 event")
        self.assertFalse(events.isVisible())
        self.assertEqual(len(self.session.job.schedules), 3)
        self.assertEqual(self.session.job.schedules[-1].plan, before.schedules[0].plan)
        self.session.undo()
        self.assertEqual(self.session.job, before)

    def test_a_calendar_that_is_none_is_told_and_nothing_is_lost(self):
        before = self.session.job
        self.asker.files = [self.write("bad.ics", "hello"), self.folder / "missing.ics"]
        self.press(self.page, "From a calendar")
        self.wait_for_work()
        self.assertIn("bad.ics: calendar", self.last_notice())
        self.press(self.page, "From a calendar")
        self.wait_for_work()
        self.assertIn("missing.ics", self.last_notice())
        self.assertIs(self.session.job, before)

    def test_holidays_become_seasons(self):
        text = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VEVENT\r\nUID:1\r\nSUMMARY:Closed\r\n"
        text += "DTSTART;VALUE=DATE:20260504\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
        self.asker.files = [self.write("holidays.ics", text)]
        self.press(self.page, "From a calendar")
        self.wait_for_work()
        table = self.year.events.table
        row = self.row_named(table, "Closed")
        self.assertEqual(self.cell(table, row, "becomes"), "left out", "no schedule is for closed days")
        self.assertFalse(self.year.events._import.isEnabled())
        schedule = self.session.job.schedules[1]
        columns = [column.id for column in table.records.columns]
        table.records.setData(table.records.index(row, columns.index("becomes")), schedule.name)
        self.press(self.page, "Import 1 event")
        (exception,) = self.session.job.exceptions
        self.assertEqual((exception.first, exception.last), (date(2026, 5, 4), date(2026, 5, 4)))
        self.assertEqual((exception.name, exception.schedule), ("Closed", schedule.id))
        self.assertIn("Import 1 event", self.last_notice())

    def test_a_calendar_can_be_given_up(self):
        text = "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nSUMMARY:Closed\r\nDTSTART;VALUE=DATE:20260504\r\nEND:VEVENT\r\n"
        self.asker.files = [self.write("holidays.ics", text + "END:VCALENDAR\r\n")]
        before = self.session.job
        self.press(self.page, "From a calendar")
        self.wait_for_work()
        self.press(self.year.events, "Cancel")
        self.assertTrue(self.year.board.isVisible())
        self.assertIs(self.session.job, before)

    def test_an_empty_job_says_what_to_do(self):
        self.open_schedule(job_with([], schedules=(), recorders=[]), view=YEAR)
        self.assertEqual(self.year._hours.text(), "Add a schedule first.")
        self.assertFalse(self.year._add.isEnabled())


class Recorder(ScheduleCase):
    def test_the_stack_follows_the_date_and_chooses_cameras(self):
        page = self.open_demo("schedule")
        page.show_view(RECORDERS)
        QApplication.processEvents()
        view = page.recorder
        rows = view.stack._rows
        self.assertEqual(len(rows), 29)
        hall = next(one for one in rows if one.name == "Hall doors east")
        self.assertIn("continuous", {span.mode for span in hall.days[3]})
        view.on.setText("2026-01-15")
        self.key(view.on, Qt.Key.Key_Return)
        closed = next(one for one in view.stack._rows if one.name == "Hall doors east")
        self.assertEqual({span.mode for span in closed.days[3]}, {"motion"}, "the line is closed in winter")
        self.click(view.stack, (60, round(view.stack._row_rect(4).center().y())))
        self.assertEqual(self.session.selected, ("cam-5",))
        view.on.setText("someday")
        self.key(view.on, Qt.Key.Key_Return)
        self.assertIn("wanted is a date", self.last_notice())

    def test_how_many_record_at_once(self):
        page = self.open_schedule(
            job_with([camera(1), camera(2)], schedules=(week_of("continuous", 6, 12),)), view=RECORDERS
        )
        at_once = page.recorder.stack._at_once
        self.assertEqual((at_once[4 * 5], at_once[4 * 6], at_once[4 * 12]), (0, 2, 0))

    def test_without_a_recorder_it_says_what_to_do(self):
        page = self.open_schedule(job_with([camera(1, registered=())], recorders=[]), view=RECORDERS)
        self.assertIn("Add a recorder", page.recorder._words.text())


class Dates(unittest.TestCase):
    def test_dates_and_days_as_people_type_them(self):
        for text in ("2026-11-01", "1.11.2026", "01/11/2026", "1 Nov 2026", "1 November 2026"):
            self.assertEqual(date_from(text, "From"), date(2026, 11, 1))
        self.assertEqual(days_from("Sat, sun"), ("sat", "sun"))
        self.assertEqual(days_from("Fri-Mon"), ("mon", "fri", "sat", "sun"))
        self.assertEqual(days_from("monday to wednesday"), ("mon", "tue", "wed"))
        self.assertEqual((days_from("all"), days_from("")), ((), ()))
        with self.assertRaises(RefusedInput):
            days_from("m")


if __name__ == "__main__":
    unittest.main()
