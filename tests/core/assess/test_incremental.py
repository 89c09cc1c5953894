"""What is carried over from one assessment to the next never shows in the result."""

import random
import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.devices import NO_HOURS, camera_figures, hours_by_schedule
from eager_lens.core.assess.incremental.cameras import WHO_AND_WHERE
from eager_lens.core.assess.incremental.kept import kept_by, only_tells_names
from eager_lens.core.assess.rules import RULES
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job import edits
from eager_lens.core.job.changes import DEVICE_MODELS
from eager_lens.core.job.model import changed
from eager_lens.core.job.wiring import put_on, unplug
from eager_lens.core.planning.addressing import plan_all
from eager_lens.core.planning.registering import fill_the_channels
from eager_lens.core.recording.week import DAYS, MODES, Span
from tests.support import camera, demo_job, job_with, one_in, repeats


def findings(assessment):
    """The findings; fixes are told by their labels."""
    return [
        (f.code, f.severity, f.stage, f.title, f.why, f.action, f.subjects, f.fix.label if f.fix else None)
        for f in assessment.findings
    ]


def findings_and_rules(assessment):
    """Everything that an assessment says."""
    facts = assessment.facts
    wiring = facts.topology.wiring
    same = (facts.topology[1:], wiring.capacity_mbps, wiring.feeders, wiring.ports_in_use, wiring.loops, facts.failures)
    return findings(assessment), facts.camera_figures, facts.recorder_figures, same


def spied(part, seen, prefix):
    """A copy of a part of the job that notes which of its fields are read."""
    fields = type(part).model_fields

    class Spied(type(part)):
        def __getattribute__(self, name):
            if name in fields:
                seen.add(prefix + name)
            return super().__getattribute__(name)

    return Spied.model_construct(**part.__dict__)


def spied_job(job, seen):
    lists = {
        name: tuple(spied(part, seen, f"{name}.") for part in getattr(job, name))
        for name in ("cameras", "recorders", "network")
    }
    return spied(job.model_copy(update=lists), seen, "")


def with_much_wrong():
    """The demo job with devices that break rules which read one field each."""
    job = demo_job()
    for edit in (
        edits.set_fields(["cam-3", "rec-1"], "x", mac_address="02:4c:00:00:00:1f", subnet=""),
        edits.set_fields(["cam-2", "cam-5"], "x", name="Twin", address="172.22.40.61", motion_rule_on=False),
        edits.set_fields(
            ["cam-2", "cam-6"], "x", address_assignment="by the recorder", event_target="10.0.0.1", codec="mjpeg"
        ),
        edits.set_fields(["cam-7", "cam-8"], "x", address_assignment="DHCP reservation", mac_address=""),
        edits.set_fields(["cam-4", "cam-9"], "x", width_px=9000, height_px=6000, event_tcp_port=81, address=""),
    ):
        job = edit.apply(job)
    return job


def covered(reads):
    """The names of fields that are read, those of lists that are read whole among them."""
    whole = {f"{name}.{field}" for name in reads & DEVICE_MODELS.keys() for field in DEVICE_MODELS[name].model_fields}
    return reads | whole


class Incremental(unittest.TestCase):
    def test_figures_of_a_camera_go_by_nothing_of_who_and_where_it_is(self):
        seen = set()
        for job in (demo_job(), with_much_wrong()):
            hours = hours_by_schedule(job.schedules)
            for one in spied_job(job, seen).cameras:
                schedule = one.schedule
                seen.clear()
                camera_figures(one, hours.get(schedule, NO_HOURS))
                self.assertEqual(seen & {f"cameras.{name}" for name in WHO_AND_WHERE}, set())
        self.assertIn("cameras.fps", seen)

    def test_a_rule_that_keeps_its_findings_reads_only_the_fields_that_it_names(self):
        seen = set()
        kept = [rule for rule in RULES if kept_by(rule) is not None]
        self.assertGreater(len(kept), 8)
        for job in (demo_job(), with_much_wrong()):
            facts = assess(spied_job(job, seen)).facts
            for rule in kept:
                # What facts make when they are first asked for belongs to nobody.
                tuple(rule(facts))
                seen.clear()
                tuple(rule(facts))
                names = {name for name in seen if not name.endswith(".id") and name not in DEVICE_MODELS}
                self.assertLessEqual(names, covered(kept_by(rule)), rule.__name__)

    def test_a_rule_that_found_nothing_looked_at_no_name_unless_it_judges_by_names(self):
        """Else a rename could make it find something, and it would not be asked."""
        seen, silent = set(), set()
        for job in (demo_job(), with_much_wrong(), job_with([camera(1), camera(2)])):
            facts = assess(spied_job(job, seen)).facts
            for rule in filter(only_tells_names, RULES):
                tuple(rule(facts))
                seen.clear()
                if not tuple(rule(facts)):
                    silent.add(rule)
                    names = {name for name in seen if name.endswith(".name")}
                    self.assertEqual(names, set(), rule.__name__)
        self.assertEqual(silent, set(filter(only_tells_names, RULES)), "each was seen to find nothing")

    def test_any_field_of_a_device_changed_says_what_an_assessment_from_nothing_says(self):
        wrong = with_much_wrong()
        for one, other in ((demo_job(), wrong), (wrong, demo_job())):
            before = assess(one)
            for name in DEVICE_MODELS:
                for at, was in one_in(4, enumerate(getattr(one, name))):
                    part = getattr(other, name)[at]
                    for field in type(part).model_fields:
                        if getattr(part, field) == getattr(was, field):
                            continue
                        parts = list(getattr(one, name))
                        parts[at] = changed(was, **{field: getattr(part, field)})
                        after = one.model_copy(update={name: tuple(parts)})
                        with self.subTest(device=was.id, field=field):
                            self.assertEqual(findings(assess(after, before)), findings(assess(after)))

    def random_edit(self, job, source):
        ids = [camera.id for camera in job.cameras]
        some = source.sample(ids, min(len(ids), source.randint(1, 5)))
        schedule = source.choice(job.schedules).id if job.schedules else ""
        choices = (
            lambda: edits.set_fields(some, "x", fps=source.choice([3, 8, 15])),
            lambda: edits.set_fields(some[:1], "x", name=source.choice(["Gate", "Door", "Roof"])),
            lambda: edits.set_fields(some, "x", address=f"172.22.40.{source.randint(0, 255)}"),
            lambda: edits.set_fields(some, "x", schedule=source.choice(["", schedule, "week-99"])),
            lambda: edits.set_fields(some, "x", registered=()),
            lambda: edits.set_fields(some, "x", measured_mbps=source.choice([None, 2.5])),
            lambda: edits.set_fields(["rec-1"], "x", drives=source.randint(0, 5), channels=source.randint(1, 40)),
            lambda: edits.set_subnet("lan-1", "x", pool_last=source.choice(["", "172.22.40.120", "172.22.40.250"])),
            lambda: edits.paint_schedule(schedule, {source.choice(DAYS): [Span(0, 600, source.choice(MODES))]}, "x"),
            lambda: edits.remove_devices(some[:1], "x"),
            lambda: edits.add_like(some[0], 2),
            lambda: (
                edits.remove_schedule(schedule) if source.random() < 0.2 else edits.add_schedule("W", like=schedule)
            ),
            fill_the_channels,
            lambda: put_on(job, some, source.choice([device.id for device in (*job.network, *job.recorders)])),
            lambda: unplug(link.id for link in source.sample(job.links, min(2, len(job.links)))),
            lambda: plan_all(job),
            lambda: edits.set_retention(source.randint(1, 60), None),
        )
        return source.choice(choices)()

    def test_after_any_edits_it_says_what_an_assessment_from_nothing_says(self):
        for seed in range(repeats(1, 4)):
            source = random.Random(seed)
            job = demo_job()
            running = assess(job)
            for step in range(repeats(16, 40)):
                try:
                    job = self.random_edit(job, source).apply(job)
                except RefusedInput:
                    continue
                running = assess(job, running)
                with self.subTest(seed=seed, step=step):
                    self.assertEqual(findings_and_rules(running), findings_and_rules(assess(job)))

    def test_undo_brings_the_very_same_judgement_back(self):
        job = demo_job()
        first = assess(job)
        changed = assess(edits.set_fields(["cam-1"], "x", fps=3).apply(job), first)
        self.assertEqual(findings_and_rules(assess(job, changed)), findings_and_rules(first))

    def test_what_did_not_change_is_not_worked_out_again(self):
        job = demo_job()
        first = assess(job)
        second = assess(edits.set_fields(["cam-1"], "x", fps=3).apply(job), first)
        again = [i for i in second.known if second.known[i] is not first.known[i]]
        self.assertEqual(again, ["cam-1"])
        schedule = edits.paint_schedule("week-2", {"mon": [Span(0, 60, "continuous")]}, "x").apply(job)
        third = assess(schedule, first)
        again = {i for i in third.known if third.known[i] is not first.known[i]}
        self.assertEqual(again, {camera.id for camera in job.cameras if camera.schedule == "week-2"})


if __name__ == "__main__":
    unittest.main()
