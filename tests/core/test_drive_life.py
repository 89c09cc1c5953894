"""What recording does to drives, and what a failed one leaves: by hand, and by trying failures."""

import random
import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.present.working import FigureRef, working_of
from eager_lens.core.sizing.drive_life import card_years, drive_life
from tests.support import camera, demo_job, job_with, recorder


class Written(unittest.TestCase):
    def test_by_level_from_1000_gb_a_day(self):
        for level, members, share in (
            ("span", 4, 1 / 4),
            ("mirror", 2, 1),
            ("raid5", 4, 1 / 3),
            ("raid6", 6, 1 / 4),
            ("raid10", 4, 1 / 2),
        ):
            with self.subTest(level):
                got = drive_life(members, 8, level, 1000, 100, 0.02)
                self.assertAlmostEqual(got.written_tb_per_year, 365 * share)

    def test_a_rebuild_writes_one_drive_at_its_speed(self):
        self.assertAlmostEqual(drive_life(4, 9, "raid5", 10, 100, 0.02).rebuild_h, 25)
        self.assertIsNone(drive_life(4, 9, "span", 10, 100, 0.02).rebuild_h)


class Failures(unittest.TestCase):
    def lost(self, members, level, runs=60_000):
        """The share of rebuilds in which drives fail so that pictures are lost, by trying; no unreadable sectors."""
        chance, hours = random.Random(3), 100
        each = 1 - (1 - 0.9) ** (hours / 8760)
        bad = 0
        for _ in range(runs):
            failed = [chance.random() < each for _ in range(members - 1)]
            bad += {
                "raid5": any(failed),
                "raid6": sum(failed) >= 2,
                "raid10": failed[0],
                "mirror": all(failed),
            }[level]
        return bad / runs

    def test_the_chance_is_that_of_trying(self):
        import math

        rate = -math.log(1 - 0.9)
        for level, members in (("raid5", 5), ("raid6", 6), ("raid10", 4), ("mirror", 2)):
            with self.subTest(level):
                # Drives so small that no sector is met that cannot be read.
                got = drive_life(members, 0.0036, level, 10, 0.01, rate)
                self.assertAlmostEqual(got.rebuild_h, 100)
                self.assertAlmostEqual(got.second_failure_share, self.lost(members, level), delta=0.004)

    def test_a_sector_and_a_second_drive_are_told_apart(self):
        """Four drives of 6 TB, RAID 5. By hand: 8e12 x 6 x 3 bits read at 1 in 1e15 are 0.144, 13.4 %; 16.7 h at 2 % a year for
        three drives are 0.0114 %."""
        got = drive_life(4, 6, "raid5", 10, 100, 0.02)
        self.assertAlmostEqual(got.unreadable_share, 0.134, places=3)
        self.assertAlmostEqual(100 * got.second_failure_share, 0.0114, places=4)

    def test_large_drives_meet_sectors_that_cannot_be_read(self):
        got = drive_life(6, 16, "raid5", 10, 100, 0.0)
        self.assertAlmostEqual(got.unreadable_share, 1 - 2.718281828 ** (-8e12 * 16 * 5 * 1e-15), places=6)
        self.assertEqual(got.second_failure_share, 0)
        self.assertEqual(drive_life(6, 16, "raid6", 10, 100, 0.0).unreadable_share, 0)

    def test_what_is_left_after_one_failed(self):
        self.assertEqual(drive_life(4, 8, "span", 10, 100, 0.02).days_share_after, 0.75)
        self.assertEqual(drive_life(4, 8, "raid5", 10, 100, 0.02).days_share_after, 1)


class InTheJob(unittest.TestCase):
    def test_the_working_names_assumptions_and_what_is_left(self):
        working = working_of(FigureRef("drives", "rec-1"), assess(demo_job()))
        lines = {line.label: line for line in working.lines}
        self.assertEqual(lines["rated for"].origin, "assumed")
        self.assertIn("days", lines["kept after one drive failed"].value)
        bare = assess(job_with([camera(1)], recorders=[recorder(drives=0)]))
        self.assertEqual(working_of(FigureRef("drives", "rec-1"), bare).value, "none")

    def test_a_card_lasts_as_long_as_its_writing(self):
        self.assertAlmostEqual(card_years(73, 100), 2)
        self.assertIsNone(card_years(73, 0))
