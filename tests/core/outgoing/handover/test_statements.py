"""Papers and the screen say the same: who records, for how long, for what purpose and how many, on all sheets of many jobs."""

import math
import random
import re
import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.rules.sizing import has_no_distance, misses_its_purpose
from eager_lens.core.enquiry.build import job_for
from eager_lens.core.enquiry.enquiry import Enquiry, PlaceWanted
from eager_lens.core.job.edits import set_each, set_fields, set_retention
from eager_lens.core.outgoing.formats.sheets import SheetTable
from eager_lens.core.outgoing.handover.modes import MODES, sheets_of
from tests.support import demo_job, repeats

PURPOSES = "inspect|identify|recognise|observe|detect|see"
VIEWS = ("door", "till", "room", "corridor", "yard", "gate")


def changed_job(seed):
    """A job as the questions build it, with something that goes wrong on sites: no drives, no recorder, no limit to keep to."""
    chance = random.Random(seed)
    views = {view: chance.randint(1, 3) for view in chance.sample(VIEWS, 3)}
    most = chance.choice((None, 60, 90))
    job = job_for(Enquiry(name=f"Job {seed}", places=(PlaceWanted(name="Shop", views=views),), most_days=most))
    recorders = [one.id for one in job.recorders]
    cameras = [one.id for one in job.cameras]
    for mishap in chance.sample(("no drives", "few drives", "loose", "far", "never erased", "short", "as planned"), 2):
        if mishap == "no drives":
            job = set_fields(recorders[:1], "x", drives=0, hot_spares=0).apply(job)
        elif mishap == "few drives":
            job = set_fields(recorders[:1], "x", raid_level="raid6", drives=3).apply(job)
        elif mishap == "loose":
            job = set_each("x", {one: {"registered": ()} for one in chance.sample(cameras, 2)}).apply(job)
        elif mishap == "far":
            job = set_fields(cameras[:2], "x", target_m=90.0, purpose="identify").apply(job)
        elif mishap == "never erased":
            job = set_fields(recorders, "x", erase_after_days=None).apply(job)
        elif mishap == "short":
            job = set_retention(3 * job.retention.least_days, None).apply(job)
    return job


def cells(sheets):
    for sheet in sheets.sheets:
        yield sheet.intro
        for block in sheet.blocks:
            if isinstance(block, SheetTable):
                for row in block.rows:
                    yield from row


def row_of(sheets, label):
    """What stands behind a label, on every sheet that has it."""
    return {
        row[1]
        for sheet in sheets.sheets
        for block in sheet.blocks
        if isinstance(block, SheetTable)
        for row in block.rows
        if len(row) == 2 and row[0] == label
    }


def filled_by(assessment):
    """Recorders that fill up, each with the most days that its drives may hold."""
    facts = assessment.facts
    recorders = [one for one in assessment.job.recorders if facts.recorder_figures[one.id].keeps == "days"]
    return [(one, facts.keeping[one.id].longest()) for one in recorders]


class ThirtyJobs(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.jobs = [*(changed_job(seed) for seed in range(repeats(7, 29))), demo_job()]
        cls.assessed = [assess(job) for job in cls.jobs]

    def each(self):
        for assessment in self.assessed:
            sets = {mode: sheets_of(mode, assessment, "1 December 2026") for mode in MODES if mode != "return visit"}
            with self.subTest(assessment.job.name):
                yield assessment, sets

    def test_all_sheets_say_the_same_of_the_days(self):
        for assessment, sets in self.each():
            said = {
                words
                for one in sets.values()
                for label in ("Pictures are kept", "Pictures kept")
                for words in row_of(one, label)
            }
            self.assertEqual(len(said), 1, said)
            (words,) = said
            promised, least = assessment.whole.promised_days, assessment.job.retention.least_days
            short = any(one.code in ("days-short", "days-doubtful") for one in assessment.findings)
            nowhere = re.match(r"Not recorded: \d+ cameras? \([^)]*\)\. ", words)
            words = words[nowhere.end() :] if nowhere else words
            if any(got.keeps == "no storage" for got in assessment.facts.recorder_figures.values()):
                self.assertTrue(nowhere, words)
            elif short:
                self.assertTrue(words.startswith(f"{math.floor(promised + 1e-9)} days "), words)
                self.assertNotIn("t least", words.partition(";")[0])
            elif words.startswith("At least"):
                self.assertIn(f"{least:g} days", words)

    def test_nobody_promises_what_nothing_keeps(self):
        for assessment, sets in self.each():
            kept_by = {one.id for one in assessment.job.recorders if assessment.recorder(one.id).usable_tb > 0}
            recorded = {
                one.name for one in assessment.job.cameras if kept_by & {place.recorder for place in one.registered}
            }
            names = {one.name for one in assessment.job.cameras}
            for mode in ("customer", "auditor", "as built"):
                table = next(
                    block
                    for sheet in sets[mode].sheets
                    for block in sheet.blocks
                    if isinstance(block, SheetTable) and block.caption == "What records when"
                )
                listed = {name for row in table.rows if row[0] != "Not recorded" for name in row[2].split("; ")} - {""}
                self.assertEqual(listed, recorded, mode)
                left = " ".join(row[2] for row in table.rows if row[0] == "Not recorded")
                self.assertEqual(
                    {name for name in names if re.search(rf"(?:^|; ){re.escape(name)}: ", left)}, names - recorded
                )
            if not recorded:
                (words,) = row_of(sets["offer"], "Pictures are kept")
                self.assertIn("Nothing is recorded", words)

    def test_nothing_is_said_to_be_erased_that_may_be_kept_longer(self):
        for assessment, sets in self.each():
            over = any(one.code == "days-over" for one in assessment.findings)
            most = assessment.job.retention.most_days
            for one in (sets["offer"], sets["customer"], sets["auditor"]):
                for words in row_of(one, "At most"):
                    self.assertEqual("are allowed: set" in words, over, words)
                    if "erase what is older" in words:
                        self.assertTrue(all(one.erase_after_days is not None for one, _ in filled_by(assessment)))
            longest = [min(days, one.erase_after_days or days) for one, days in filled_by(assessment)]
            (sign,) = row_of(sets["customer"], "Kept for")
            if longest:
                self.assertEqual(sign.replace("\u2009", ""), f"up to {math.ceil(max(longest) - 1e-9)} days")
            else:
                self.assertEqual(sign, "…… days")
            if most is not None and not over and longest:
                self.assertLessEqual(max(longest), most + 1e-6)

    def test_purposes_are_those_that_no_finding_denies(self):
        for assessment, sets in self.each():
            denied = len(assessment.facts.having(misses_its_purpose)) + len(assessment.facts.having(has_no_distance))
            for mode in ("offer", "customer"):
                texts = " ; ".join(cells(sets[mode]))
                marked = sum(int(many) for many in re.findall(r"(\d+) to [a-z ]+ \(too few pixels", texts))
                self.assertEqual(marked, denied, mode)
                counted = sum(
                    int(many)
                    for many in re.findall(
                        r"(\d+) (?:to (?:inspect|identify|recognise|observe|detect|see)|as agreed)", texts
                    )
                )
                self.assertEqual(counted, len(assessment.job.cameras), mode)

    def test_nothing_points_to_what_the_copy_does_not_have(self):
        for _, sets in self.each():
            for mode in ("offer", "customer"):
                everything = " ".join(cells(sets[mode]))
                for words in ("open points", "95 of 100", "have it erased", "without a loss", "made on site"):
                    self.assertNotIn(words, everything)


class Addresses(unittest.TestCase):
    def test_the_sheet_says_how_devices_come_to_theirs(self):
        job = demo_job()
        (sheet,) = [one for one in sheets_of("as built", assess(job), "x").sheets if one.title == "Addresses"]
        leased = sum(one.address_assignment == "static from a lease" and bool(one.address) for one in job.devices())
        self.assertIn(f"{leased} fixed from a lease", sheet.intro)
        self.assertNotIn("none is leased", sheet.intro)
