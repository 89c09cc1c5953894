"""No answer is not a good answer: each state in which a figure is missing says which it is, on screen, on paper and in JSON."""

import json
import unittest
from datetime import date

from eager_lens.cli.job import as_json
from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.model import EMPTY_JOB, Retention, ScheduleException
from eager_lens.core.outgoing.handover.modes import MODES, sheets_of
from eager_lens.core.outgoing.handover.statements import kept, kept_words
from eager_lens.core.present.readout import readings
from eager_lens.core.present.stages import RECORDS
from tests.core.outgoing.handover.test_statements import cells
from tests.support import camera, codes, job_with, recorder, week_of

NO_SPACE = {
    "no drives": {"drives": 0},
    "too few for RAID 6": {"drives": 3, "raid_level": "raid6"},
    "one hot spare too many": {"drives": 1, "hot_spares": 1},
    "an odd number of mirrored pairs": {"drives": 5, "raid_level": "raid10"},
}
OFF = week_of("off", id="week-2", name="Off")


def two_recorders(**first):
    """Four cameras on a recorder of these drives, two on one that keeps a month."""
    cameras = [camera(n) for n in range(1, 5)]
    cameras += [camera(n, registered=({"recorder": "rec-2", "channel": n},)) for n in (5, 6)]
    return job_with(
        cameras, [recorder(1, **first), recorder(2, drives=4, drive_tb=20)], retention=Retention(least_days=31)
    )


def states():
    """Jobs by what is missing of them."""
    yield from ((name, two_recorders(**fields)) for name, fields in NO_SPACE.items())
    yield "empty", EMPTY_JOB
    yield "no cameras", job_with()
    yield "no recorder", job_with([camera(1, registered=())], recorders=[])
    yield "registered nowhere", job_with([camera(1, registered=())])
    yield "schedule off", job_with([camera(1, schedule="week-2")], schedules=(week_of(), OFF))
    closed = ScheduleException(
        id="exception-1", name="Closed", first=date(2026, 1, 1), last=date(2026, 12, 31), yearly=True, schedule="week-2"
    )
    yield "closed all year", job_with([camera(1)], schedules=(week_of(), OFF), exceptions=(closed,))
    yield "no drives and no cameras", job_with(recorders=[recorder(1, drives=0)])


def texts_of(job):
    """What strip, headlines, workings and sheets say, by where."""
    assessment = assess(job)
    yield "strip", [f"{one.words} {one.figure} {one.rest}" for one in readings(assessment)]
    for record in RECORDS:
        got = record.verdict(assessment)
        yield record.id, [got.sentence, got.facts]
    for mode in MODES:
        yield mode, list(cells(sheets_of(mode, assessment, "2026-12-01")))


class AbsentStates(unittest.TestCase):
    def test_nothing_is_said_to_have_no_limit_and_no_none_is_printed(self):
        for name, job in states():
            for where, texts in texts_of(job):
                with self.subTest(name, where=where):
                    for text in map(str, texts):
                        self.assertNotRegex(text, r"no limit|\bNone\b|\bnan\b|\binf\b")

    def test_figures_say_which_state_they_are_in(self):
        for name, job in states():
            with self.subTest(name):
                found = json.loads(json.dumps(as_json(assess(job))))
                for got in (found["whole_job"], *found["recorders"].values()):
                    self.assertEqual(got["promised_days"] is None, got["keeps"] in ("nothing recorded", "no recorder"))
                    self.assertEqual(got["mean_days"] is None, got["promised_days"] is None)
                    self.assertEqual(got["keeps"] == "no storage", got["promised_days"] == 0)

    def test_a_recorder_without_storage_is_the_worst_truth_everywhere(self):
        for name in NO_SPACE:
            job = two_recorders(**NO_SPACE[name])
            assessment, said = assess(job), dict(texts_of(job))
            with self.subTest(name):
                self.assertEqual((assessment.whole.promised_days, assessment.whole.keeps), (0.0, "no storage"))
                self.assertIn("Days promised · Recorder 1 0 no storage", said["strip"])
                self.assertEqual("Recorder 1 has no usable storage", said["sizing"][0])
                self.assertIn("0, no storage", said["as built"], "the storage sheet's own cell")
                self.assertTrue(
                    kept_words(kept(assessment)).startswith("Not recorded: 4 cameras (recorder without storage).")
                )
                for mode in ("offer", "customer", "auditor"):
                    self.assertTrue(any("Not recorded: 4 cameras" in str(text) for text in said[mode]), mode)
                self.assertTrue(any("it keeps nothing" in str(text) for text in said["offer"]))
                self.assertEqual(
                    [one.severity.name for one in assessment.findings if one.code == "no-space"], ["FAULT"]
                )
                self.assertNotIn("days-short", codes(job), "told once")

    def test_the_remedy_of_no_storage_makes_an_array_that_keeps_the_promise(self):
        for name, fields in NO_SPACE.items():
            job = two_recorders(**{"bays": 8, **fields})
            finding = next(one for one in assess(job).findings if one.code == "no-space")
            after = assess(finding.fix.apply(job)).recorder("rec-1")
            with self.subTest(name):
                self.assertEqual((after.keeps, after.trouble), ("days", ""))
                self.assertGreaterEqual(after.promised_days, 31)

    def test_cameras_that_nothing_records_are_told_as_that(self):
        said = {name: kept_words(kept(assess(job))) for name, job in states() if job.cameras}
        self.assertIn("no schedule that records", said["schedule off"])
        self.assertIn("no recorder", said["registered nowhere"])
        self.assertIn("no recorder", said["no recorder"])


if __name__ == "__main__":
    unittest.main()
