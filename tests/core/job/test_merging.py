"""Two copies of a job made one: nothing that one side did is lost, nothing that both did is decided unasked."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import add_cameras, remove_devices, set_fields, set_retention
from eager_lens.core.job.merging import merged_edit, merging
from eager_lens.core.job.model import Link, changed
from eager_lens.core.job.proof import Check
from eager_lens.core.job.proving import latest_checks, record_checks
from tests.core.job.test_differences import other
from tests.properties import tried
from tests.support import camera, demo_job, job_with, switch

BASE = job_with([camera(n, fps=12) for n in range(1, 5)], network=(switch(1),))


def check(outcome, at, device="cam-1", by="WA", **more):
    return Check(device=device, check="label", outcome=outcome, at=f"2026-11-20T{at}:00", by=by, **more)


def edited(*edits, job=BASE):
    for edit in edits:
        job = edit.apply(job)
    return job


def fields(ids, **values):
    return set_fields(ids, "x", **values)


class Merging(unittest.TestCase):
    def merged(self, mine, theirs, base=BASE, **decided):
        return merged_edit(merging(base, mine, theirs), decided).apply(mine)

    def test_what_one_side_changed_is_taken(self):
        mine = edited(fields(["cam-1"], fps=25))
        theirs = edited(fields(["cam-1"], place="Yard"), fields(["cam-2"], cable_m=30), set_retention(60, None))
        after = self.merged(mine, theirs)
        self.assertEqual((after.cameras[0].fps, after.cameras[0].place, after.cameras[1].cable_m), (25, "Yard", 30))
        self.assertEqual(after.retention.least_days, 60)

    def test_what_both_changed_is_a_question(self):
        found = merging(BASE, edited(fields(["cam-1"], fps=25)), edited(fields(["cam-1"], fps=8)))
        (question,) = found.questions
        self.assertEqual((question.before, question.here[0].now, question.there[0].now), (12, 25, 8))
        with self.assertRaisesRegex(RefusedInput, "1 question is not decided"):
            merged_edit(found, {})
        mine = edited(fields(["cam-1"], fps=25))
        self.assertEqual(merged_edit(found, {question.key: "there"}).apply(mine).cameras[0].fps, 8)
        with self.assertRaisesRegex(RefusedInput, "nothing new"):
            merged_edit(found, {question.key: "here"})

    def test_alike_on_both_sides_is_none(self):
        mine = edited(fields(["cam-1"], fps=25))
        self.assertEqual(merging(BASE, mine, edited(fields(["cam-1"], fps=25)))[:3], ((), (), ()))

    def test_removed_there_and_changed_here_is_a_question(self):
        mine, theirs = edited(fields(["cam-1"], fps=25)), edited(remove_devices(["cam-1"], "x"))
        found = merging(BASE, mine, theirs)
        (question,) = [one for one in found.questions if one.there[0].list == "cameras"]
        decided = {one.key: "there" for one in found.questions}
        self.assertNotIn("cam-1", [one.id for one in merged_edit(found, decided).apply(mine).cameras])
        self.assertEqual(question.here[0].now, 25)

    def test_two_who_each_add_a_camera_have_both(self):
        mine = edited(add_cameras([{"name": "Office"}]))
        theirs = edited(add_cameras([{"name": "Site", "registered": ({"recorder": "rec-1", "channel": 9},)}]))
        theirs = changed(theirs, links=(Link(id="link-1", a="cam-5", a_port=1, b="net-1", b_port=3),))
        theirs = record_checks([check("passed", "12:00", "cam-5")]).apply(theirs)
        after = self.merged(mine, theirs)
        self.assertEqual([one.name for one in after.cameras[4:]], ["Office", "Site"])
        site = after.cameras[5]
        self.assertEqual(after.links[0].a, site.id)
        self.assertEqual([one.device for one in after.checks], [site.id])

    def test_without_a_common_version_every_difference_is_a_question(self):
        mine, theirs = (
            edited(fields(["cam-1"], fps=25)),
            edited(fields(["cam-2"], fps=8), remove_devices(["cam-4"], "x")),
        )
        found = merging(None, mine, theirs)
        self.assertEqual(
            [one.there[0].place[1:] for one in found.questions], [(("cam-1",), "fps"), (("cam-2",), "fps")]
        )
        self.assertEqual(found.taken, (), "nothing says that cam-4 was removed there")


class Tests(unittest.TestCase):
    def both(self, here, there, base=BASE):
        mine, theirs = record_checks(here).apply(base), record_checks(there).apply(base)
        return mine, merging(base, mine, theirs)

    def test_results_of_the_other_are_taken_with_their_snags(self):
        mine, found = self.both([], [check("failed", "12:00")])
        after = merged_edit(found, {}).apply(mine)
        self.assertEqual((len(after.checks), [one.state for one in after.snags]), (1, ["open"]))

    def test_different_results_are_a_question_and_both_stay_on_record(self):
        mine, found = self.both([check("failed", "11:00")], [check("passed", "12:00")])
        (question,) = found.questions
        for side, counts, snags in (("here", "failed", {"open"}), ("there", "passed", {"put right"})):
            after = merged_edit(found, {question.key: side}).apply(mine)
            with self.subTest(side):
                self.assertEqual(latest_checks(after)["cam-1", "label"].outcome, counts)
                self.assertEqual({one.state for one in after.snags}, snags)
                self.assertEqual(len(after.checks), 2)

    def test_a_failure_here_keeps_its_snag_open_when_it_counts(self):
        base = record_checks([check("failed", "10:00")]).apply(BASE)
        mine, found = self.both([check("failed", "11:00")], [check("passed", "12:00")], base)
        after = merged_edit(found, {one.key: "here" for one in found.questions}).apply(mine)
        self.assertEqual([one.state for one in after.snags], ["open"], "nobody closed it")
        self.assertEqual(latest_checks(after)["cam-1", "label"].outcome, "failed")

    def test_the_later_of_two_alike_counts(self):
        for there_at, counts in (("09:00", "WA"), ("13:00", "BF")):
            mine, found = self.both([check("passed", "11:00")], [check("passed", there_at, by="BF")])
            after = merged_edit(found, {}).apply(mine)
            self.assertEqual((found.questions, latest_checks(after)["cam-1", "label"].by), ((), counts))

    def test_one_that_was_made_again_there_counts(self):
        base = record_checks([check("failed", "10:00")]).apply(BASE)
        mine, found = self.both([], [check("passed", "12:00")], base)
        after = merged_edit(found, {}).apply(mine)
        self.assertEqual(([one.state for one in after.snags], found.questions), (["put right"], ()))


@st.composite
def copies(draw):
    """The demo with fields of some cameras changed."""
    job = demo_job()
    values = {}
    for at in draw(st.lists(st.integers(0, 11), unique=True, max_size=4)):
        one = job.cameras[at]
        names = draw(
            st.lists(st.sampled_from(["fps", "power_w", "post_recording_s", "importance"]), unique=True, min_size=1)
        )
        values[one.id] = {name: min(5, other(getattr(one, name)) + draw(st.integers(0, 2))) for name in names}
    for camera_id, fields_of in values.items():
        job = set_fields([camera_id], "x", **fields_of).apply(job)
    return job


class AnyTwoCopies(unittest.TestCase):
    @tried(40)
    @given(copies(), copies())
    def test_taking_all_of_the_other_side_leaves_each_field_as_one_of_them_has_it(self, mine, theirs):
        base = demo_job()
        found = merging(base, mine, theirs)
        if not (found.taken or found.questions):
            return
        for side in ("here", "there"):
            try:
                after = merged_edit(found, {one.key: side for one in found.questions}).apply(mine)
            except RefusedInput:
                self.assertEqual((side, found.taken), ("here", ()))
                continue
            for was, ours, others, now in zip(base.cameras, mine.cameras, theirs.cameras, after.cameras, strict=True):
                for name in ("fps", "power_w", "post_recording_s", "importance"):
                    b, m, t, n = (getattr(one, name) for one in (was, ours, others, now))
                    wanted = m if t == b else t if m == b else (m if side == "here" else t)
                    self.assertEqual(n, wanted, f"{now.id}.{name}")


if __name__ == "__main__":
    unittest.main()
