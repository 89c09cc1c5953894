"""A year of weeks: exceptions, and days on which the clocks change."""

import unittest
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.exceptions import exception_figures
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job import edits
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.recording.week import MODES, Span, WeekPlan, day_hours
from eager_lens.core.recording.year import (
    Dates,
    days_of,
    hours_on,
    minutes_on,
    overlaps,
    schedule_on,
    year_hours,
)
from tests.properties import tried
from tests.support import camera, codes, finding_of, job_with, week_of

LONDON = "Europe/London"
FORWARD, BACK = date(2026, 3, 29), date(2026, 10, 25)

CLOSED = Dates("s1", date(2025, 11, 1), date(2026, 3, 31), True, (), "run", "closed")
LANTERNS = Dates("s2", date(2026, 12, 5), date(2026, 12, 20), False, ("sat", "sun"), "run", "run")


def night(start_h, end_h, mode="continuous"):
    return (Span(round(start_h * 60), round(end_h * 60), mode),)


class Exceptions(unittest.TestCase):
    def test_a_yearly_one_may_go_over_new_year(self):
        for day, wanted in ((date(2031, 1, 15), "closed"), (date(2031, 10, 31), "run"), (date(2031, 11, 1), "closed")):
            self.assertEqual(schedule_on(day, "run", [CLOSED]), wanted)

    def test_both_ends_belong_to_it_and_other_weeks_do_not(self):
        self.assertEqual(schedule_on(date(2026, 3, 31), "run", [CLOSED]), "closed")
        self.assertEqual(schedule_on(date(2026, 4, 1), "run", [CLOSED]), "run")
        self.assertEqual(schedule_on(date(2026, 1, 1), "office", [CLOSED]), "office")

    def test_the_later_one_wins_on_its_days_only(self):
        exceptions = [CLOSED, LANTERNS]
        self.assertEqual(schedule_on(date(2026, 12, 5), "run", exceptions), "run")
        self.assertEqual(schedule_on(date(2026, 12, 7), "run", exceptions), "closed")
        self.assertEqual(schedule_on(date(2027, 12, 5), "run", exceptions), "closed", "it came once only")

    def test_a_year_of_dates(self):
        schedules = [schedule_on(day, "run", [CLOSED]) for day in days_of(2026)]
        self.assertEqual(schedules.count("run"), (date(2026, 10, 31) - date(2026, 3, 31)).days)
        self.assertEqual(
            (schedules[89], schedules[90], schedules[303], schedules[304]), ("closed", "run", "run", "closed")
        )

    def test_overlaps_are_found_with_their_first_day(self):
        ((one, other, day),) = overlaps((CLOSED, LANTERNS), 2026)
        self.assertEqual((one.id, other.id, day), ("s1", "s2", date(2026, 12, 5)))
        self.assertEqual(overlaps((CLOSED, LANTERNS._replace(instead_of="office")), 2026), ())


class ClockChanges(unittest.TestCase):
    def test_one_day_has_23_hours_and_one_25(self):
        self.assertEqual([minutes_on(day, LONDON) for day in (FORWARD, BACK, date(2026, 6, 1))], [1380, 1500, 1440])
        self.assertEqual(minutes_on(FORWARD, "UTC"), 1440)

    def test_an_hour_left_out_is_not_recorded_and_one_that_comes_twice_is_twice(self):
        one_to_two = night(1, 2)
        self.assertEqual(hours_on(FORWARD, one_to_two, LONDON)["continuous"], 0)
        self.assertEqual(hours_on(BACK, one_to_two, LONDON)["continuous"], 2)
        self.assertEqual(hours_on(BACK, night(0, 1.5), LONDON)["continuous"], 2.0)
        self.assertEqual(hours_on(date(2026, 6, 1), one_to_two, LONDON)["continuous"], 1)

    @tried(100)
    @given(st.dates(date(2020, 1, 1), date(2030, 12, 31)), st.integers(0, 94), st.integers(1, 30))
    def test_the_modes_of_a_day_add_up_to_its_length(self, day, start, long):
        spans = (Span(start * 15, min(1440, (start + long) * 15), "motion"), Span(600, 700, "continuous"))
        hours = hours_on(day, spans, LONDON)
        self.assertAlmostEqual(sum(hours.values()), minutes_on(day, LONDON) / 60)
        if minutes_on(day, LONDON) == 1440:
            self.assertEqual(hours, day_hours(spans))

    def test_a_year_adds_up(self):
        plans = {"run": WeekPlan(mon=night(8, 18)), "closed": WeekPlan()}
        hours = year_hours(2026, "run", plans, [CLOSED], LONDON)
        mondays = sum(day.weekday() == 0 and 4 <= day.month <= 10 for day in days_of(2026))
        self.assertEqual(hours["continuous"], 10 * mondays)
        self.assertAlmostEqual(sum(hours[mode] for mode in MODES), 8760)
        self.assertAlmostEqual(sum(year_hours(2028, "run", plans, [], LONDON).values()), 8784)


class InTheJob(unittest.TestCase):
    def setUp(self):
        schedules = (week_of(), week_of("motion", id="week-2", name="Closed"))
        self.job = job_with([camera(1, measured_mbps=4), camera(2, measured_mbps=4)], schedules=schedules)

    def with_exception(self, **fields):
        base = {"instead_of": "week-1", "schedule": "week-2", "yearly": True}
        edit = edits.add_exception("Winter", date(2025, 11, 1), date(2026, 3, 31), **{**base, **fields})
        return edit.apply(self.job)

    def test_through_the_file_and_back(self):
        job = self.with_exception(days=("sat", "sun"))
        self.assertEqual(job_from_text(job_text(job)).exceptions, job.exceptions)

    def test_a_season_that_ends_before_it_begins_is_refused(self):
        with self.assertRaises(RefusedInput) as caught:
            edits.add_exception("Odd", date(2026, 5, 2), date(2026, 5, 1)).apply(self.job)
        self.assertIn("is before its first", str(caught.exception))

    def test_changed_and_taken_out(self):
        job = edits.set_exception(["exception-1"], "Rename", name="Closure").apply(self.with_exception())
        self.assertEqual(job.exceptions[0].name, "Closure")
        self.assertEqual(edits.remove_exceptions(["exception-1"]).apply(job).exceptions, ())

    def test_what_is_stored_in_a_season(self):
        (got,) = exception_figures(assess(self.with_exception()).facts)
        usual = assess(self.job).recorder("rec-1").gb_per_day
        self.assertLess(got.gb_per_day, usual / 3)
        fixed = exception_figures(assess(self.with_exception(instead_of="week-9")).facts)
        self.assertEqual(fixed, [], "no camera has that week, so nothing changes")

    def test_findings_of_seasons(self):
        lost = self.with_exception(schedule="week-9")
        self.assertIn("exception-without-schedule", codes(lost))
        self.assertNotIn(
            "exception-without-schedule", codes(finding_of(lost, "exception-without-schedule").fix.apply(lost))
        )
        both = edits.add_exception("Fair", date(2026, 1, 3), date(2026, 1, 4), instead_of="", schedule="week-1").apply(
            self.with_exception()
        )
        self.assertIn("from 3 January", finding_of(both, "exceptions-overlap").why)

    def test_the_promise_follows_an_exception_that_stores_more(self):
        keep = edits.set_retention(60, None)
        cameras = [camera(n, measured_mbps=8, schedule="week-2", events_per_h=2) for n in (1, 2)]
        job = keep.apply(job_with(cameras, schedules=self.job.schedules))
        self.assertNotIn("days-short", codes(job))
        fair = edits.add_exception(
            "Fair", date(2026, 7, 1), date(2026, 8, 31), instead_of="week-2", schedule="week-1"
        ).apply(job)
        finding = finding_of(fair, "days-doubtful")
        self.assertIn("“Fair” stores", finding.why)
        self.assertNotIn("days-doubtful", codes(finding.fix.apply(fair)))
        self.assertNotIn("unused-schedule", codes(fair))

    def test_an_exception_of_years_holds_all_the_year(self):
        job = job_with([camera(1, measured_mbps=4, schedule="week-2")], schedules=self.job.schedules)
        long = edits.add_exception("Works", date(2026, 7, 1), date(2028, 8, 31), instead_of="week-2", schedule="week-1")
        always = edits.set_fields(["cam-1"], "x", schedule="week-1").apply(job)
        days = assess(long.apply(job)).recorder("rec-1").promised_days
        self.assertAlmostEqual(days / assess(always).recorder("rec-1").promised_days, 1, delta=0.001)

    def test_a_week_of_its_own_is_a_copy_for_one(self):
        job = edits.own_schedule("cam-2").apply(self.job)
        self.assertEqual([c.schedule for c in job.cameras], ["week-1", "schedule-1"])
        self.assertEqual(job.schedules[-1].plan, job.schedules[0].plan)
        self.assertEqual(job.schedules[-1].name, "Round the clock, Camera 2")

    def test_alarm_hours_are_painted_apart(self):
        job = edits.paint_schedule("week-1", {"mon": night(22, 24)}, "Alarms", alarms=True).apply(self.job)
        self.assertEqual(job.schedules[0].alarms.mon, night(22, 24))
        self.assertEqual(job.schedules[0].plan, self.job.schedules[0].plan)


if __name__ == "__main__":
    unittest.main()
