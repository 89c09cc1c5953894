"""Calendars out and in: own ones come back as they were, foreign ones become what they say, the rest is told with its reason."""

import unittest
from datetime import date, timedelta
from unittest import mock

import recurring_ical_events
from hypothesis import given
from hypothesis import strategies as st
from icalendar import Calendar

from eager_lens.core.errors import RefusedInput
from eager_lens.core.incoming.calendars.reading import Stretch, calendar_rows
from eager_lens.core.incoming.calendars.taking import KNOWN, LEFT_OUT, NEW, choices, proposals, taking
from eager_lens.core.incoming.calendars.wording import when_words
from eager_lens.core.job.edits import add_exception
from eager_lens.core.job.model import ScheduleException, changed
from eager_lens.core.outgoing.formats.calendar import calendar_bytes
from eager_lens.core.recording.week import DAYS, MODES, Span, WeekPlan, flat_spans
from eager_lens.core.recording.year import days_of
from tests.properties import tried
from tests.support import demo_job, job_with, week_of

YEAR = 2026


def calendar(*events):
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//a shop//EN"]
    for at, event in enumerate(events):
        uid = [] if any(line.startswith("UID") for line in event) else [f"UID:{at}"]
        lines += ["BEGIN:VEVENT", *uid, "DTSTAMP:20260101T000000Z", *event, "END:VEVENT"]
    return "\r\n".join([*lines, "END:VCALENDAR", ""]).encode()


OPEN = ("SUMMARY:Open", "DTSTART;TZID=Europe/London:20260105T083000", "DTEND;TZID=Europe/London:20260105T171500")


def read(*events, zone="Europe/London", year=YEAR):
    return calendar_rows(calendar(*events), zone, year)


def one(*event, **more):
    (row,) = read(event, **more)
    return row


class Hours(unittest.TestCase):
    def test_hours_that_come_back_weekly(self):
        row = one(*OPEN, "RRULE:FREQ=WEEKLY;BYDAY=MO,WE")
        span = (Span(510, 1035, "continuous"),)
        self.assertEqual((row.kind, row.plan, row.note), ("weekly hours", WeekPlan(mon=span, wed=span), ""))

    def test_without_days_the_first_ones_day_counts_and_daily_is_all(self):
        self.assertEqual(one(*OPEN, "RRULE:FREQ=WEEKLY").plan, WeekPlan(mon=(Span(510, 1035, "continuous"),)))
        daily = one(*OPEN, "RRULE:FREQ=DAILY").plan
        self.assertEqual({daily.of_day(day) for day in DAYS}, {(Span(510, 1035, "continuous"),)})

    def test_over_midnight_it_goes_on_the_next_day(self):
        got = one("SUMMARY:Bar", "DTSTART:20260111T220000", "DURATION:PT4H", "RRULE:FREQ=WEEKLY;BYDAY=SU").plan
        self.assertEqual((got.sun, got.mon), ((Span(1320, 1440, "continuous"),), (Span(0, 120, "continuous"),)))

    def test_evening_hours_of_another_zone_land_on_the_sites_day(self):
        evening = ("SUMMARY:Show", "DTSTART;TZID=America/New_York:20260105T210000", "DURATION:PT1H")
        row = one(*evening, "RRULE:FREQ=WEEKLY;BYDAY=MO")
        self.assertEqual(row.plan, WeekPlan(tue=(Span(120, 180, "continuous"),)), "in New York it is Monday still")
        self.assertIn("daylight saving that changes on other dates", row.note)

    def test_times_in_utc_shift_with_the_seasons_and_that_is_told(self):
        row = one("SUMMARY:Open", "DTSTART:20260706T070000Z", "DTEND:20260706T160000Z", "RRULE:FREQ=WEEKLY")
        self.assertEqual(row.plan.mon, (Span(480, 1020, "continuous"),), "seven months of twelve are summer time")
        self.assertIn("other hours", row.note)
        self.assertEqual(one("DTSTART:20260706T070000Z", "DURATION:PT9H", "RRULE:FREQ=WEEKLY", zone="UTC").note, "")

    def test_an_end_makes_hours_for_a_time(self):
        for rule in ("RRULE:FREQ=WEEKLY;UNTIL=20260202T235959Z", "RRULE:FREQ=WEEKLY;COUNT=5"):
            row = one(*OPEN, rule)
            with self.subTest(rule):
                self.assertEqual(row.kind, "hours for a time")
                self.assertEqual(row.stretches, (Stretch(date(2026, 1, 5), date(2026, 2, 2)),))
        once = one("SUMMARY:Late shopping", "DTSTART:20261223T180000", "DTEND:20261223T220000")
        self.assertEqual(
            (once.kind, once.stretches), ("hours for a time", (Stretch(date(2026, 12, 23), date(2026, 12, 23)),))
        )

    def test_dates_left_out_are_told(self):
        row = one(*OPEN, "RRULE:FREQ=WEEKLY", "EXDATE;TZID=Europe/London:20260406T083000,20260504T083000")
        self.assertEqual(row.kind, "weekly hours")
        self.assertIn("does not apply on 2026-04-06, 2026-05-04", row.note)

    def test_a_single_one_moved_is_told_and_one_cancelled_is_left_out(self):
        head = (*OPEN, "UID:a", "RRULE:FREQ=WEEKLY")
        of = ("UID:a", "RECURRENCE-ID;TZID=Europe/London:20260112T083000", "SUMMARY:Open")
        later = (*of, "DTSTART;TZID=Europe/London:20260112T100000", "DTEND;TZID=Europe/London:20260112T171500")
        (row,) = read(head, later)
        self.assertEqual(row.plan, WeekPlan(mon=(Span(510, 1035, "continuous"),)))
        self.assertIn("other hours", row.note)
        (row,) = read(head, (*OPEN, *of[:2], "STATUS:CANCELLED"))
        self.assertIn("does not apply on 2026-01-12", row.note)

    def test_a_time_zone_that_is_not_known_is_told(self):
        row = one("SUMMARY:Open", "DTSTART;TZID=Far/Away:20260105T090000", "DTEND;TZID=Far/Away:20260105T100000")
        self.assertIn("Far/Away, is unknown", row.note)
        self.assertEqual(one(*OPEN).note, "")

    def test_what_does_not_fit_says_why(self):
        for words, event in (
            ("It does not repeat every week.", (*OPEN, "RRULE:FREQ=WEEKLY;INTERVAL=2")),
            ("It does not repeat every week.", (*OPEN, "RRULE:FREQ=MONTHLY;BYDAY=1MO")),
            ("It must last between a minute and a day.", (OPEN[1], "DURATION:PT0M", "RRULE:FREQ=WEEKLY")),
            ("It repeats within a day.", (*OPEN, "RRULE:FREQ=SECONDLY")),
            ("It is cancelled.", (*OPEN, "STATUS:CANCELLED", "RRULE:FREQ=WEEKLY")),
            ("It cannot be read", ("SUMMARY:Broken", "RRULE:FREQ=WEEKLY")),
            ("It cannot be read", ("SUMMARY:Broken", "DTSTART:soon")),
            ("It ends before it begins", ("SUMMARY:Turned", "DTSTART:20260105T090000", "DTEND:20260105T080000")),
        ):
            with self.subTest(words):
                row = one(*event)
                self.assertEqual(row.kind, "nothing")
                self.assertIn(words, row.note)


class WholeDays(unittest.TestCase):
    def stretches(self, *event, **more):
        return one("SUMMARY:Closed", *event, **more).stretches

    def test_dates_once_and_every_year(self):
        self.assertEqual(
            self.stretches("DTSTART;VALUE=DATE:20260829"), (Stretch(date(2026, 8, 29), date(2026, 8, 29)),)
        )
        christmas = ("DTSTART;VALUE=DATE:20261224", "DTEND;VALUE=DATE:20261227", "RRULE:FREQ=YEARLY")
        self.assertEqual(self.stretches(*christmas), (Stretch(date(2026, 12, 24), date(2026, 12, 26), True),))

    def test_a_day_of_every_week(self):
        row = one("SUMMARY:Closed", "DTSTART;VALUE=DATE:20260105", "RRULE:FREQ=WEEKLY;BYDAY=SU,MO")
        self.assertEqual(row.stretches, (Stretch(date(2026, 1, 1), date(2026, 12, 31), True, ("mon", "sun")),))
        ended = self.stretches("DTSTART;VALUE=DATE:20260105", "RRULE:FREQ=WEEKLY;UNTIL=20260330")
        self.assertEqual(ended, (Stretch(date(2026, 1, 5), date(2026, 3, 30), False, ("mon",)),))

    def test_a_last_monday_comes_on_other_dates_each_year(self):
        row = one("SUMMARY:Bank holiday", "DTSTART;VALUE=DATE:20260525", "RRULE:FREQ=YEARLY;BYMONTH=5;BYDAY=-1MO")
        self.assertEqual(
            [stretch.first for stretch in row.stretches][:3], [date(2026, 5, 25), date(2027, 5, 31), date(2028, 5, 29)]
        )
        self.assertIn("until 2030 are used", row.note)

    def test_further_dates_ends_and_counts(self):
        further = self.stretches("DTSTART;VALUE=DATE:20260504", "RDATE;VALUE=DATE:20260525,20260831")
        self.assertEqual(
            [stretch.first for stretch in further], [date(2026, 5, 4), date(2026, 5, 25), date(2026, 8, 31)]
        )
        counted = self.stretches("DTSTART;VALUE=DATE:20261225", "RRULE:FREQ=YEARLY;COUNT=2")
        self.assertEqual([stretch.first for stretch in counted], [date(2026, 12, 25), date(2027, 12, 25)])

    def test_the_29th_of_february(self):
        row = one("SUMMARY:Leap", "DTSTART;VALUE=DATE:20280229", "RRULE:FREQ=YEARLY")
        self.assertEqual(row.stretches, (Stretch(date(2028, 2, 29), date(2028, 2, 29), True),))

    def test_what_is_over_is_proposed_to_stay_out(self):
        row = one("SUMMARY:Closed", "DTSTART;VALUE=DATE:20240501")
        self.assertEqual((row.kind, row.is_over, row.note), ("dates", True, "It is over."))
        self.assertEqual(proposals([row], demo_job()), {row.id: LEFT_OUT})

    def test_too_many_separate_dates_are_no_exception(self):
        row = one("SUMMARY:Odd", "DTSTART;VALUE=DATE:20260101", "RRULE:FREQ=DAILY;INTERVAL=3")
        self.assertEqual(row.kind, "nothing")
        self.assertIn("separate dates", row.note)

    def test_in_words(self):
        row = one("SUMMARY:Closed", "DTSTART;VALUE=DATE:20261224", "DTEND;VALUE=DATE:20261227", "RRULE:FREQ=YEARLY")
        self.assertEqual(when_words(row), "24 Dec to 26 Dec every year")
        self.assertEqual(when_words(one(*OPEN, "RRULE:FREQ=WEEKLY;BYDAY=MO,TU,WE")), "Mon to Wed 08:30–17:15")


class Garbage(unittest.TestCase):
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
                calendar_rows(data, "UTC", YEAR)
            self.assertEqual(caught.exception.path, "calendar")

    def test_more_events_than_it_may_hold_are_refused_before_they_are_read(self):
        weekly = ["DTSTART:20260105T080000", "DURATION:PT1H", "RRULE:FREQ=WEEKLY;BYDAY=MO"]
        with mock.patch("eager_lens.core.incoming.calendars.reading.MOST_EVENTS", 3):
            self.assertEqual(len(read(*[weekly] * 3)), 3)
            with self.assertRaisesRegex(RefusedInput, "has 4 events, more than 3; export only the opening hours"):
                read(*[weekly] * 4)


NIGHT, CLOSED = week_of("motion", id="week-2", name="Night"), week_of("off", id="week-3", name="Closed days")
JOB = job_with(schedules=(week_of(), NIGHT, CLOSED))


class EventPath(unittest.TestCase):
    def proposed(self, *summaries):
        rows = read(*((f"SUMMARY:{name}", "DTSTART;VALUE=DATE:20261225") for name in summaries))
        return [proposals(rows, JOB)[row.id] for row in rows]

    def test_words_lead_to_a_schedule_and_nothing_else_does(self):
        self.assertEqual(
            self.proposed("Christmas closed", "Bank holiday", "night of museums", "Fair"),
            ["week-3", "week-3", "week-2", LEFT_OUT],
        )
        only = job_with()
        (row,) = read(("SUMMARY:Christmas closed", "DTSTART;VALUE=DATE:20261225"))
        self.assertEqual(proposals([row], only), {row.id: LEFT_OUT}, "round the clock is no schedule for closed days")

    def test_what_is_chosen_is_taken_as_one_step(self):
        rows = read(
            (
                "SUMMARY:Christmas closed",
                "DTSTART;VALUE=DATE:20261224",
                "DTEND;VALUE=DATE:20261227",
                "RRULE:FREQ=YEARLY",
            ),
            (*OPEN, "RRULE:FREQ=WEEKLY"),
            ("SUMMARY:Late shopping", "DTSTART:20261223T180000", "DTEND:20261223T220000"),
            ("SUMMARY:Fair", "DTSTART;VALUE=DATE:20260701"),
        )
        chosen = {**proposals(rows, JOB), rows[2].id: NEW}
        job = taking(rows, chosen, "holidays", "week-1").apply(JOB)
        self.assertEqual([one.name for one in job.schedules[3:]], ["Open", "Late shopping"])
        self.assertEqual(
            [(one.name, one.schedule, one.instead_of, one.yearly) for one in job.exceptions],
            [("Christmas closed", "week-3", "week-1", True), ("Late shopping", job.schedules[4].id, "week-1", False)],
        )
        again = proposals(rows, job)
        self.assertEqual(again[rows[0].id], KNOWN, "taken once, it is already in the job")

    def test_an_event_may_be_every_schedule_of_the_job_or_stay_out(self):
        (row,) = read(("SUMMARY:Fair", "DTSTART;VALUE=DATE:20260701"))
        self.assertEqual(choices(row, JOB), [LEFT_OUT, "week-1", "week-2", "week-3"])


def held(job):
    """What a calendar can hold of a job: schedules by name with their hours, and exceptions with their schedules' names."""
    names = {schedule.id: schedule.name for schedule in job.schedules}
    plans = {one.name: {day: flat_spans(one.plan.of_day(day)) for day in DAYS} for one in job.schedules}
    exceptions = [
        (one.name, one.first, one.last, one.yearly, tuple(day for day in DAYS if day in one.days),
         names.get(one.instead_of, ""), names[one.schedule])
        for one in job.exceptions
    ]  # fmt: skip
    return plans, exceptions


def there_and_back(job, into):
    rows = calendar_rows(calendar_bytes(job, YEAR), job.time_zone, YEAR)
    return rows, taking(rows, proposals(rows, into), "own", "").apply(into)


@st.composite
def jobs(draw):
    """Jobs with schedules of any hours, and exceptions of any dates."""
    schedules = []
    for number in range(draw(st.integers(1, 3))):
        days = {}
        for day in DAYS:
            cuts = sorted(draw(st.sets(st.integers(0, 1440), max_size=4)))
            days[day] = tuple(
                Span(start, end, draw(st.sampled_from(MODES)))
                for start, end in zip(cuts[::2], cuts[1::2], strict=False)
            )
        name = draw(st.sampled_from(["Round the clock", "Büro: Nacht", "店; 夜, \\ ", "Off"])) + f" {number}"
        schedules.append(week_of(id=f"week-{number}", name=name).model_copy(update={"plan": WeekPlan(**days)}))
    ids = [one.id for one in schedules]
    exceptions = []
    for number in range(draw(st.integers(0, 4))):
        first = draw(st.dates(date(2020, 1, 1), date(2025, 12, 31)))
        yearly = draw(st.booleans())
        last = draw(st.dates(date(2020, 1, 1) if yearly else first, date(2033, 12, 31)))
        days = tuple(draw(st.lists(st.sampled_from(DAYS), unique=True, max_size=3)))
        exceptions.append(
            ScheduleException(
                id=f"exception-{number}", name=f"Exception {number}", first=first, last=last, yearly=yearly, days=days,
                instead_of=draw(st.sampled_from(["", *ids])), schedule=draw(st.sampled_from(ids)),
            )
        )  # fmt: skip
    return job_with(schedules=tuple(schedules), exceptions=tuple(exceptions), time_zone="Europe/London")


class ThereAndBack(unittest.TestCase):
    @tried(25)
    @given(jobs())
    def test_own_calendars_come_back_as_they_were(self, job):
        _, again = there_and_back(job, changed(job, schedules=(), exceptions=()))
        plans, exceptions = held(job)
        self.assertEqual(held(again)[0], plans)
        found = held(again)[1]
        # Instead of itself means nothing, and is not written again.
        self.assertEqual([(*one[:5], "" if one[5] == one[6] else one[5], one[6]) for one in exceptions], found)

    def test_into_the_same_job_nothing_comes_twice(self):
        job = demo_job()
        rows, again = there_and_back(job, job)
        self.assertEqual(set(proposals(rows, job).values()), {KNOWN})
        self.assertIs(again, job)

    @tried(25)
    @given(jobs(), st.integers(2026, 2029))
    def test_a_foreign_reader_sees_each_exception_on_its_dates(self, job, year):
        calendar = Calendar.from_ical(calendar_bytes(job, YEAR))
        found = {}
        for event in recurring_ical_events.of(calendar).between(date(year, 1, 1), date(year + 1, 1, 1)):
            if not str(event["UID"]).startswith("exception-") or event.get("STATUS") == "CANCELLED":
                continue
            days = {event.start + timedelta(days=n) for n in range((event.end - event.start).days)}
            found.setdefault(str(event["SUMMARY"]), set()).update(day for day in days if day.year == year)
        for exception in job.exceptions:
            wanted = {day for day in days_of(year) if exception.as_dates().holds_on(day)}
            with self.subTest(exception.name):
                self.assertEqual(found.get(exception.name, set()), wanted)

    def test_a_yearly_exception_is_on_all_its_dates_for_a_foreign_reader(self):
        for first, last, days in (
            (date(2020, 2, 29), date(2020, 2, 29), ()),
            (date(2020, 11, 1), date(2021, 3, 31), ()),
            (date(2020, 2, 10), date(2020, 3, 5), ("sat", "sun")),
            (date(2020, 12, 24), date(2021, 1, 2), ()),
        ):
            job = add_exception("E", first, last, yearly=True, days=days, schedule="week-1").apply(job_with())
            calendar = Calendar.from_ical(calendar_bytes(job, YEAR))
            for year in (2027, 2028, 2029):
                found = set()
                for event in recurring_ical_events.of(calendar).between(date(year - 1, 6, 1), date(year + 1, 1, 1)):
                    if event["SUMMARY"] == "E":
                        found |= {event.start + timedelta(days=n) for n in range((event.end - event.start).days)}
                wanted = {day for day in days_of(year) if job.exceptions[0].as_dates().holds_on(day)}
                with self.subTest(first=first, year=year):
                    self.assertEqual({day for day in found if day.year == year}, wanted)

    def test_the_demo_is_written_in_its_zone_with_names_and_modes(self):
        text = calendar_bytes(demo_job(), YEAR).decode()
        for words in (
            "SUMMARY:Running days: motion",
            "TZID=Europe/London",
            "BEGIN:VTIMEZONE",
            "BYDAY=TH,FR,SA,SU",
            "SUMMARY:Lantern trams",
        ):
            self.assertIn(words, text)


if __name__ == "__main__":
    unittest.main()
