"""Named time zones, and make profile of makes."""

import unittest
from datetime import UTC, datetime

from eager_lens.core.clock.zones import posix_offset_s, posix_zone, zone_named, zone_offset_s
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import set_job, set_make_profiles, tick_steps, untick_steps
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.make_profiles import MakeProfile, maker_of, profile_of, usual_profile
from eager_lens.core.job.model import Job
from eager_lens.core.job.rehearsal import Tick


class Zones(unittest.TestCase):
    def test_summer_time_is_in_a_named_zone(self):
        winter, summer = datetime(2026, 1, 5, 12, tzinfo=UTC), datetime(2026, 7, 5, 12, tzinfo=UTC)
        self.assertEqual((zone_offset_s("Europe/London", winter), zone_offset_s("Europe/London", summer)), (0, 3600))
        self.assertEqual(zone_offset_s("Asia/Kolkata", winter), 5.5 * 3600)

    def test_a_zone_as_devices_write_it_has_the_same_offset(self):
        for name in ("Europe/London", "Europe/Dublin", "America/New_York", "Australia/Sydney", "Asia/Kolkata", "UTC"):
            for month in (1, 4, 7, 11):
                moment = datetime(2026, month, 15, 12, tzinfo=UTC)
                with self.subTest(name, month=month):
                    self.assertEqual(posix_offset_s(posix_zone(name), moment), zone_offset_s(name, moment))
        self.assertEqual(posix_offset_s(posix_zone("+60"), datetime(2026, 1, 5)), 3600)
        self.assertEqual(posix_offset_s(posix_zone("-90"), datetime(2026, 1, 5)), -5400)

    def test_what_is_no_zone_has_no_offset(self):
        for zone in ("", "x" * 300, "CET-1CEST", "CET-1CEST,M99.9.9,M0.0.0", "12", "\x00,", "GMT+1e9"):
            with self.subTest(zone[:20]):
                self.assertIsNone(posix_offset_s(zone, datetime(2026, 1, 5)))

    def test_a_place_without_its_continent_is_helped(self):
        with self.assertRaises(ValueError) as caught:
            zone_named("berlin")
        self.assertIn("Europe/Berlin", str(caught.exception))

    def test_nonsense_is_refused(self):
        for text in ("", "+01:00", "../../etc/passwd", "GMT plus one"):
            with self.subTest(text=text), self.assertRaises(ValueError):
                zone_named(text)

    def test_a_job_takes_a_known_zone_only(self):
        self.assertEqual(set_job("zone", time_zone="Europe/Dublin").apply(Job()).time_zone, "Europe/Dublin")
        with self.assertRaises(RefusedInput):
            set_job("zone", time_zone="Mars/Base").apply(Job())


class HabitsOfMakes(unittest.TestCase):
    QUILL, QUILL_R = MakeProfile(make="Quillmark", start_s=95), MakeProfile(make="Quillmark R", start_s=160)

    def test_the_longest_beginning_counts_and_capitals_do_not(self):
        described = (self.QUILL, self.QUILL_R)
        self.assertEqual(profile_of("quillmark r32", described), self.QUILL_R)
        self.assertEqual(profile_of("Quillmark B4", described), self.QUILL)
        self.assertIs(profile_of("Ospine", described), usual_profile())
        self.assertIs(profile_of("", (MakeProfile(make=""),)), usual_profile())

    def test_the_maker_is_the_first_word(self):
        self.assertEqual((maker_of("Quillmark B4"), maker_of("  ")), ("quillmark", ""))

    def test_habits_and_ticks_go_through_the_file(self):
        job = set_make_profiles("Describe", [self.QUILL, self.QUILL_R]).apply(Job())
        job = tick_steps([Tick(step="cam-1/plug", by="WA", at="2026-11-25T09:00")]).apply(job)
        again = job_from_text(job_text(job))
        self.assertEqual((again.make_profiles, again.commissioning), (job.make_profiles, job.commissioning))

    def test_a_later_tick_takes_the_place_of_an_earlier_one(self):
        job = tick_steps([Tick(step="a"), Tick(step="b")]).apply(Job())
        job = tick_steps([Tick(step="a", outcome="skipped")]).apply(job)
        self.assertEqual({tick.step: tick.outcome for tick in job.commissioning}, {"b": "done", "a": "skipped"})
        self.assertEqual([tick.step for tick in untick_steps(["a"]).apply(job).commissioning], ["b"])

    def test_a_wrong_first_address_is_refused(self):
        with self.assertRaises(RefusedInput):
            from eager_lens.core.job.model import changed

            changed(self.QUILL, first_address="172.29.0.800")


if __name__ == "__main__":
    unittest.main()
