"""What is carried over from one assessment to the next never shows in the result."""

import random
import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job import edits
from eager_lens.core.job.addressing import plan_all
from eager_lens.core.job.registering import fill_the_channels
from eager_lens.core.job.wiring import put_on, unplug
from eager_lens.core.recording.week import DAYS, MODES, Span
from tests.support import demo_job


def told(assessment):
    """Everything that an assessment says; fixes are told by their labels."""
    findings = [
        (f.code, f.severity, f.stage, f.title, f.why, f.action, f.subjects, f.fix.label if f.fix else None)
        for f in assessment.findings
    ]
    facts = assessment.facts
    wiring = facts.topology.wiring
    same = (facts.topology[1:], wiring.capacity_mbps, wiring.feeders, wiring.sockets, wiring.loops, facts.failures)
    return findings, facts.camera_figures, facts.recorder_figures, same


class Incremental(unittest.TestCase):
    def random_edit(self, job, source):
        ids = [camera.id for camera in job.cameras]
        some = source.sample(ids, min(len(ids), source.randint(1, 5)))
        week = source.choice(job.weeks).id if job.weeks else ""
        choices = (
            lambda: edits.set_fields(some, "x", fps=source.choice([3, 8, 15])),
            lambda: edits.set_fields(some, "x", address=f"172.22.40.{source.randint(0, 255)}"),
            lambda: edits.set_fields(some, "x", week=source.choice(["", week, "week-99"])),
            lambda: edits.set_fields(some, "x", registered=()),
            lambda: edits.set_fields(some, "x", measured_mbps=source.choice([None, 2.5])),
            lambda: edits.set_fields(["rec-1"], "x", drives=source.randint(0, 5), channels=source.randint(1, 40)),
            lambda: edits.set_subnet("lan-1", "x", pool_last=source.choice(["", "172.22.40.120", "172.22.40.250"])),
            lambda: edits.paint_week(week, {source.choice(DAYS): [Span(0, 600, source.choice(MODES))]}, "x"),
            lambda: edits.remove_devices(some[:1], "x"),
            lambda: edits.add_like(some[0], 2),
            lambda: edits.remove_week(week) if source.random() < 0.2 else edits.add_week("W", like=week),
            fill_the_channels,
            lambda: put_on(job, some, source.choice([device.id for device in (*job.network, *job.recorders)])),
            lambda: unplug(link.id for link in source.sample(job.links, min(2, len(job.links)))),
            lambda: plan_all(job),
            lambda: edits.set_retention(source.randint(1, 60), None),
        )
        return source.choice(choices)()

    def test_after_any_edits_it_says_what_an_assessment_from_nothing_says(self):
        for seed in range(6):
            source = random.Random(seed)
            job = demo_job()
            running = assess(job)
            for step in range(40):
                try:
                    job = self.random_edit(job, source).apply(job)
                except RefusedInput:
                    continue
                running = assess(job, running)
                with self.subTest(seed=seed, step=step):
                    self.assertEqual(told(running), told(assess(job)))

    def test_undo_brings_the_very_same_judgement_back(self):
        job = demo_job()
        first = assess(job)
        changed = assess(edits.set_fields(["cam-1"], "x", fps=3).apply(job), first)
        self.assertEqual(told(assess(job, changed)), told(first))

    def test_what_did_not_change_is_not_worked_out_again(self):
        job = demo_job()
        first = assess(job)
        second = assess(edits.set_fields(["cam-1"], "x", fps=3).apply(job), first)
        again = [i for i in second.known if second.known[i] is not first.known[i]]
        self.assertEqual(again, ["cam-1"])
        week = edits.paint_week("week-2", {"mon": [Span(0, 60, "always")]}, "x").apply(job)
        third = assess(week, first)
        again = {i for i in third.known if third.known[i] is not first.known[i]}
        self.assertEqual(again, {camera.id for camera in job.cameras if camera.week == "week-2"})


if __name__ == "__main__":
    unittest.main()
