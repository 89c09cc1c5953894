"""Weeks and clips: against a minute-by-minute count, and against a simulation of random events."""

import itertools
import math
import random
import unittest

from hypothesis import given
from hypothesis import strategies as st
from scipy.special import betainc, betaincinv

from eager_lens.core.recording.beta import beta_quantile, beta_share
from eager_lens.core.recording.clips import event_clips, recorded_share, share_ends, spread_of_share
from eager_lens.core.recording.week import (
    DAYS,
    MINUTES_A_DAY,
    MODES,
    Span,
    WeekPlan,
    added,
    clock_of,
    flat_spans,
    minute_of,
    painted,
    schedule_hours,
    typed_minute,
    union_mode,
)
from tests.properties import tried

SPANS = st.lists(
    st.tuples(st.integers(0, MINUTES_A_DAY - 1), st.integers(1, MINUTES_A_DAY), st.sampled_from(MODES)).map(
        lambda part: Span(min(part[0], part[1] - 1), max(part[0] + 1, part[1]), part[2])
    ),
    max_size=8,
)


def minute_by_minute(spans):
    minutes = ["off"] * MINUTES_A_DAY
    for span in spans:
        for minute in range(span.start, span.end):
            minutes[minute] = span.mode
    return minutes


class Clock(unittest.TestCase):
    def test_times_of_day(self):
        for text, minute in (("00:00", 0), ("08:15", 495), ("23:59", 1439), ("24:00", 1440)):
            with self.subTest(text):
                self.assertEqual(minute_of(text), minute)
                self.assertEqual(clock_of(minute), text)

    def test_what_is_no_time(self):
        for text in ("8:15", "24:01", "25:00", "12:60", "12", "12:5", " 12:00", "12:00:00", "ab:cd", "１２:00"):
            with self.subTest(text), self.assertRaises(ValueError):
                minute_of(text)

    def test_times_as_people_type_them(self):
        for text, clock in (
            ("7:30", "07:30"),
            ("0730", "07:30"),
            ("730", "07:30"),
            ("7.30", "07:30"),
            ("7h30", "07:30"),
            ("7h", "07:00"),
            ("7:30 pm", "19:30"),
            ("7:30PM", "19:30"),
            ("12 am", "00:00"),
            ("12:15 p.m.", "12:15"),
            ("19", "19:00"),
            (" 24:00 ", "24:00"),
            ("0", "00:00"),
        ):
            with self.subTest(text):
                self.assertEqual(clock_of(typed_minute(text)), clock)

    def test_what_nobody_means_by_a_time(self):
        for text in ("", "25", "24:01", "7:60", "13 pm", "0 am", "7:3", "noonish", "7:30:00", "-7", "１２:00", "12345"):
            with self.subTest(text), self.assertRaisesRegex(ValueError, "7:30 pm"):
                typed_minute(text)


class Weeks(unittest.TestCase):
    @tried(150)
    @given(SPANS)
    def test_flat_spans_say_the_same_as_counting_minutes(self, spans):
        flat = flat_spans(spans)
        self.assertEqual(minute_by_minute(flat), minute_by_minute(spans))
        for one, following in itertools.pairwise(flat):
            self.assertTrue(
                one.end < following.start or (one.end == following.start and one.mode != following.mode),
                (one, following),
            )
        self.assertNotIn("off", [span.mode for span in flat])

    @tried(60)
    @given(SPANS, SPANS)
    def test_painting_lays_the_stroke_over_what_was_there(self, before, stroke):
        plan = painted(WeekPlan(mon=tuple(before)), {"mon": stroke})
        self.assertEqual(minute_by_minute(plan.mon), minute_by_minute([*before, *stroke]))
        self.assertEqual(plan.tue, ())

    @tried(60)
    @given(SPANS, SPANS)
    def test_adding_keeps_the_union_minute_by_minute(self, before, strokes):
        plan = added(WeekPlan(mon=tuple(before)), {"mon": strokes})
        wanted = minute_by_minute(before)
        for stroke in strokes:
            for minute in range(stroke.start, stroke.end):
                wanted[minute] = union_mode(wanted[minute], stroke.mode)
        self.assertEqual(minute_by_minute(plan.mon), wanted)

    def test_the_union_of_two_modes(self):
        for one, other, both in (
            ("motion", "alarm input", "motion or alarm"),
            ("motion", "motion or alarm", "motion or alarm"),
            ("continuous", "motion", "continuous"),
            ("off", "alarm input", "alarm input"),
            ("motion", "off", "motion"),
            ("alarm input", "alarm input", "alarm input"),
        ):
            with self.subTest(one=one, other=other):
                self.assertEqual((union_mode(one, other), union_mode(other, one)), (both, both))

    @tried(60)
    @given(SPANS)
    def test_the_modes_add_up_to_a_week(self, spans):
        self.assertAlmostEqual(sum(schedule_hours(WeekPlan(**dict.fromkeys(DAYS, tuple(spans)))).values()), 168)

    def test_spans_keep_their_form_in_json(self):
        plan = WeekPlan.model_validate({"fri": [["22:00", "24:00", "alarm input"]]})
        self.assertEqual(plan.fri, (Span(1320, 1440, "alarm input"),))
        self.assertEqual(plan.model_dump(mode="json")["fri"], [["22:00", "24:00", "alarm input"]])


class Clips(unittest.TestCase):
    def test_nothing_happens(self):
        self.assertEqual(event_clips(0, 20, 5, 10), (0.0, 0.0, 0.0))

    def test_rare_events_are_as_long_as_what_was_asked(self):
        for events in (1e-300, 1e-12, 1e-6):
            with self.subTest(events):
                clips = event_clips(events, 20, 5, 10)
                self.assertTrue(math.isclose(clips.mean_clip_s, 35, rel_tol=1e-6))
                self.assertTrue(math.isclose(clips.recorded_share, events / 3600 * 35, rel_tol=1e-6))

    def test_share_is_clips_times_their_length(self):
        for events in (0.1, 6, 60, 300):
            clips = event_clips(events, 20, 5, 10)
            with self.subTest(events):
                self.assertTrue(math.isclose(clips.recorded_share, clips.clips_per_h * clips.mean_clip_s / 3600))

    def test_the_share_stays_finite_where_the_mean_clip_does_not(self):
        self.assertEqual(recorded_share(100_000, 86_400, 0, 0), 1.0)
        self.assertEqual(spread_of_share(100_000, 86_400, 60), 0.0)
        self.assertEqual(share_ends(100_000, 86_400, 60), (1.0, 1.0))
        with self.assertRaises(OverflowError):
            event_clips(100_000, 86_400, 0, 0)

    def test_against_a_simulation_of_random_events(self):
        """400,000 Poisson arrivals with lengths of any spread: share, number and length within sampling error."""
        random_source = random.Random(20261125)
        for events_per_h, event_s, pre_s, post_s in ((30, 20, 5, 15), (120, 12, 5, 10)):
            with self.subTest(events_per_h):
                arrivals = 400_000
                covered_s = end = moment = 0.0
                clips = 0
                for _ in range(arrivals):
                    moment += random_source.expovariate(events_per_h / 3600)
                    length = random_source.expovariate(1 / event_s)
                    start, stop = moment - pre_s, moment + length + post_s
                    if start > end:
                        clips += 1
                        covered_s += stop - start
                        end = stop
                    elif stop > end:
                        covered_s += stop - end
                        end = stop
                wanted = event_clips(events_per_h, event_s, pre_s, post_s)
                self.assertAlmostEqual(covered_s / moment, wanted.recorded_share, delta=0.004)
                self.assertAlmostEqual(clips / (moment / 3600) / wanted.clips_per_h, 1, delta=0.01)
                self.assertAlmostEqual(covered_s / clips / wanted.mean_clip_s, 1, delta=0.01)

    def test_the_share_of_a_stretch_is_as_uncertain_as_events_drawn_one_by_one(self):
        chance = random.Random(7)
        for events_per_h, over_s in ((2, 600), (10, 60), (30, 60), (30, 3600), (100, 12), (100, 600)):
            with self.subTest(events_per_h=events_per_h, over_s=over_s):
                shares = sorted(self.share_of_a_stretch(chance, events_per_h, 20, over_s) for _ in range(4000))
                mean = sum(shares) / len(shares)
                spread = math.sqrt(sum((share - mean) ** 2 for share in shares) / len(shares))
                self.assertAlmostEqual(spread_of_share(events_per_h, 20, over_s) / spread, 1, delta=0.08)
                low, high = share_ends(events_per_h, 20, over_s)
                self.assertAlmostEqual(low, shares[400], delta=0.02 + 0.5 * mean)
                self.assertLess(sum(share < low - 0.02 for share in shares) / len(shares), 0.16)
                self.assertLess(sum(share > high + 0.02 for share in shares) / len(shares), 0.16)

    def test_beta_shares_and_quantiles_are_those_of_the_library(self):
        chance = random.Random(1)
        for _ in range(1500):
            a, b = (10 ** chance.uniform(-3, 5) for _ in range(2))
            x, share = chance.random(), chance.choice((0.1, 0.5, 0.9))
            with self.subTest(a=a, b=b, x=x, share=share):
                self.assertAlmostEqual(beta_share(a, b, x), betainc(a, b, x), delta=1e-10)
                self.assertAlmostEqual(beta_quantile(a, b, share), betaincinv(a, b, share), delta=1e-10)

    @staticmethod
    def share_of_a_stretch(chance, events_per_h, event_s, over_s):
        """The share of a stretch in which something goes on: events begin at random, from one event's length before it."""
        at, covered_s, until = -event_s, 0.0, 0.0
        while (at := at + chance.expovariate(events_per_h / 3600)) < over_s:
            covered_s += max(0.0, min(at + event_s, over_s) - max(at, until, 0.0))
            until = max(until, at + event_s)
        return covered_s / over_s

    def test_rare_events_of_a_moment_are_counted_exactly(self):
        closed, first_order = (spread_of_share(events, 20, 60) for events in (1.9e-4, 1.7e-4))
        self.assertAlmostEqual(closed / first_order, math.sqrt(1.9 / 1.7), 3)


if __name__ == "__main__":
    unittest.main()
