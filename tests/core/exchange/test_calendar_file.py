"""Calendars out and in: what is written is read back, foreign ones are taken as far as they go, the rest is told."""

import unittest
from datetime import date
from unittest import mock

from eager_lens.core.errors import RefusedInput
from eager_lens.core.exchange.calendar_file import calendar_bytes, read_calendar
from eager_lens.core.job.edits import add_exception
from eager_lens.core.recording.week import DAYS, Span, WeekPlan, flat_spans
from tests.support import demo_job, job_with, week_of


def calendar(*events):
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//a shop//EN"]
    for event in events:
        lines += ["BEGIN:VEVENT", "UID:1", "DTSTAMP:20260101T000000Z", *event, "END:VEVENT"]
    return "\r\n".join([*lines, "END:VCALENDAR", ""]).encode()


OPEN = ("SUMMARY:Open", "DTSTART;TZID=Europe/London:20260105T083000", "DTEND;TZID=Europe/London:20260105T171500")


def read(*events, mode="continuous", zone="Europe/London"):
    return read_calendar(calendar(*events), mode, zone)


class In(unittest.TestCase):
    def test_hours_that_come_back_weekly(self):
        got = read((*OPEN, "RRULE:FREQ=WEEKLY;BYDAY=MO,WE"), mode="motion")
        self.assertEqual(got.plan, WeekPlan(mon=(Span(510, 1035, "motion"),), wed=(Span(510, 1035, "motion"),)))
        self.assertEqual(got.passed_over, ())

    def test_without_days_the_first_ones_day_counts_and_daily_is_all(self):
        self.assertEqual(read((*OPEN, "RRULE:FREQ=WEEKLY")).plan, WeekPlan(mon=(Span(510, 1035, "continuous"),)))
        daily = read((*OPEN, "RRULE:FREQ=DAILY")).plan
        self.assertEqual({daily.of_day(day) for day in DAYS}, {(Span(510, 1035, "continuous"),)})

    def test_over_midnight_it_goes_on_the_next_day(self):
        late = ("SUMMARY:Bar", "DTSTART:20260111T220000", "DURATION:PT4H", "RRULE:FREQ=WEEKLY;BYDAY=SU")
        got = read(late).plan
        self.assertEqual((got.sun, got.mon), ((Span(1320, 1440, "continuous"),), (Span(0, 120, "continuous"),)))

    def test_times_of_another_zone_become_the_sites(self):
        utc = ("SUMMARY:Open", "DTSTART:20260706T070000Z", "DTEND:20260706T160000Z", "RRULE:FREQ=WEEKLY")
        self.assertEqual(read(utc).plan.mon, (Span(480, 1020, "continuous"),))
        self.assertEqual(read(utc, zone="UTC").plan.mon, (Span(420, 960, "continuous"),))

    def test_whole_days_and_whether_they_come_back(self):
        closed = ("SUMMARY:Closed", "DTSTART;VALUE=DATE:20261224", "DTEND;VALUE=DATE:20261227", "RRULE:FREQ=YEARLY")
        single = ("SUMMARY:Fair", "DTSTART;VALUE=DATE:20260829")
        got = read(closed, single)
        self.assertEqual(got.whole_days[0], ("Closed", date(2026, 12, 24), date(2026, 12, 26), True))
        self.assertEqual(got.whole_days[1], ("Fair", date(2026, 8, 29), date(2026, 8, 29), False))

    def test_what_does_not_fit_is_passed_over_and_told_by_name(self):
        once = ("SUMMARY:Meeting", "DTSTART:20260105T100000", "DTEND:20260105T110000")
        other = (*OPEN[1:], "SUMMARY:Odd weeks", "RRULE:FREQ=WEEKLY;INTERVAL=2")
        empty = ("SUMMARY:Nothing", "DTSTART:20260105T100000", "DTEND:20260105T100000", "RRULE:FREQ=WEEKLY")
        broken = ("SUMMARY:Broken", "RRULE:FREQ=WEEKLY")
        got = read((*OPEN, "RRULE:FREQ=WEEKLY"), once, other, empty, broken)
        sentences = " ".join(got.passed_over)
        for words in (
            "“Meeting” is no hour that comes back",
            "“Odd weeks” comes back only every other",
            "“Nothing” is not",
            "“Broken”",
        ):
            self.assertIn(words, sentences)

    def test_garbage_and_calendars_without_anything_are_refused(self):
        for data in (
            b"",
            b"hello",
            b"\xff\xfe\x00",
            calendar(),
            b"BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n",
            b"x" * (11 * 2**20),
        ):
            with self.subTest(data=data[:20]), self.assertRaises(RefusedInput) as caught:
                read_calendar(data, "continuous", "UTC")
            self.assertEqual(caught.exception.path, "calendar")

    def test_more_events_than_it_may_hold_are_refused_before_they_are_read(self):
        weekly = ["DTSTART:20260105T080000", "DURATION:PT1H", "RRULE:FREQ=WEEKLY;BYDAY=MO"]
        with mock.patch("eager_lens.core.exchange.calendar_file.MOST_EVENTS", 3):
            self.assertEqual(read(*[weekly] * 3).plan.mon, (Span(480, 540, "continuous"),))
            with self.assertRaisesRegex(RefusedInput, "holds 4 events and may hold 3; export the opening hours alone"):
                read(*[weekly] * 4)


class Out(unittest.TestCase):
    def test_a_week_that_is_written_is_read_back(self):
        plan = WeekPlan(
            mon=(Span(0, 360, "continuous"), Span(1320, 1440, "continuous")), sat=(Span(510, 1095, "continuous"),)
        )
        job = job_with(schedules=(week_of().model_copy(update={"plan": plan}),))
        self.assertEqual(read_calendar(calendar_bytes(job, 2026), "continuous", "UTC").plan, plan)

    def test_a_season_that_is_written_is_read_back(self):
        job = add_exception("Winter", date(2025, 11, 1), date(2026, 3, 31), yearly=True, schedule="week-1").apply(
            job_with()
        )
        got = read_calendar(calendar_bytes(job, 2026), "continuous", "UTC").whole_days
        self.assertEqual(got, (("Winter", date(2025, 11, 1), date(2026, 3, 31), True),))

    def test_the_demo_is_written_in_its_zone_with_names_and_modes(self):
        text = calendar_bytes(demo_job(), 2026).decode()
        for words in (
            "SUMMARY:Running days: motion",
            "TZID=Europe/London",
            "BYDAY=TH,FR,SA,SU",
            "SUMMARY:Lantern trams",
        ):
            self.assertIn(words, text)
        whole = read_calendar(text.encode(), "continuous", "Europe/London").plan
        self.assertEqual(flat_spans(whole.mon), (Span(0, 1440, "continuous"),), "one of its weeks is round the clock")


if __name__ == "__main__":
    unittest.main()
