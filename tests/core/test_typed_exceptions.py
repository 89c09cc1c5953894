"""Exceptions in words: dates and hours as people say them, and a schedule that fits."""

import unittest
from datetime import date

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.parsed_exceptions import add_parsed_exception
from eager_lens.core.recording.typed_dates import month_days_from
from eager_lens.core.recording.typed_exceptions import exception_from
from tests.support import camera, job_with, week_of


class Words(unittest.TestCase):
    def test_what_people_say(self):
        for text, name, first, last, closed, hours in (
            ("closed on 25 December", "Closed on 25 December", (12, 25), (12, 25), True, None),
            ("Closed 24 Dec to 2 January", "Closed, 24 Dec to 2 January", (12, 24), (1, 2), True, None),
            ("open 10-16 on 24 Dec", "Open 10-16 on 24 Dec", (12, 24), (12, 24), False, (600, 960)),
            ("open 8 pm - 2 am on 31.12.", "Open 8 pm - 2 am on 31.12.", (12, 31), (12, 31), False, (1200, 120)),
            ("Fair 1 June to 20 June", "Fair", (6, 1), (6, 20), False, None),
        ):
            said = exception_from(text, 2026)
            with self.subTest(text):
                self.assertEqual((said.name, said.yearly, said.is_closed, said.hours), (name, True, closed, hours))
                self.assertEqual((said.first, said.last), (date(2026, *first), date(2026, *last)))
        dated = exception_from("Fair 1 June 2027 to 20 June 2027", 2026)
        self.assertEqual((dated.first, dated.last, dated.yearly), (date(2027, 6, 1), date(2027, 6, 20), False))

    def test_what_cannot_be_read_is_told(self):
        for text, words in (
            ("", "no date"),
            ("closed at Christmas", "no date"),
            ("closed on 31 February", "wanted are days as 25 December"),
            ("Fair 1 June to 20 June 2027", "the other has none"),
            ("open 25-26 on 1 May", "25"),
        ):
            with self.subTest(text), self.assertRaisesRegex(RefusedInput, words):
                exception_from(text, 2026)

    def test_days_that_come_every_year(self):
        wanted = (date(2026, 12, 25), date(2026, 1, 1), date(2026, 10, 3))
        self.assertEqual(month_days_from("25 December, 1 Jan; 3.10.", 2026, "x"), wanted)


class Fitting(unittest.TestCase):
    def added(self, text, *schedules):
        job = job_with([camera(1)], schedules=(week_of(), *schedules))
        return add_parsed_exception(exception_from(text, 2026), "week-1").apply(job)

    def test_closed_is_on_motion_all_day_by_a_schedule_of_its_own(self):
        job = self.added("closed on 25 December")
        self.assertEqual([one.name for one in job.schedules], ["Round the clock", "Closed"])
        self.assertEqual([span.mode for span in job.schedules[1].plan.thu], ["motion"])
        (one,) = job.exceptions
        self.assertEqual((one.schedule, one.instead_of, one.yearly), (job.schedules[1].id, "week-1", True))

    def test_a_schedule_that_fits_is_taken(self):
        job = self.added("closed on 25 December", week_of("motion", id="week-7", name="Nights"))
        self.assertEqual((len(job.schedules), job.exceptions[0].schedule), (2, "week-7"))

    def test_other_hours_are_continuous_then(self):
        job = self.added("open 10-16 on 24 Dec")
        self.assertEqual(job.schedules[1].name, "Open 10:00 to 16:00")
        spans = [(span.start, span.mode) for span in job.schedules[1].plan.mon]
        self.assertEqual(spans, [(0, "motion"), (600, "continuous"), (960, "motion")])

    def test_anything_else_proposes_another_schedule(self):
        job = self.added("Fair 1 June to 3 June", week_of(id="week-9", name="Fair days"))
        self.assertEqual((len(job.schedules), job.exceptions[0].schedule), (2, "week-9"))


if __name__ == "__main__":
    unittest.main()
