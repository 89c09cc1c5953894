"""What comes back on field sheets: taken in where nobody differs, shown side by side where two people do."""

import base64
import json
import tempfile
import unittest
from datetime import UTC, datetime
from pathlib import Path

from eager_lens.core.assess.assessment import assess
from eager_lens.core.errors import DamagedFile, RefusedInput
from eager_lens.core.job.proof import Check
from eager_lens.core.job.proving import close_snags, latest_checks, open_snag, record_checks, set_snags, tick_mounting
from eager_lens.core.job.rehearsal import Tick
from eager_lens.core.records.event_log.log_file import append
from eager_lens.core.records.field_sheet.content import field_sheet, sheet_data
from eager_lens.core.records.field_sheet.handed_out import base_digest, base_handed_out, handed_out_event
from eager_lens.core.records.field_sheet.merging import merged_edit, merging
from eager_lens.core.records.field_sheet.saved import Base, field_file_from, photo_bytes
from tests.support import camera, demo_job, job_with

SHEET = "00112233aabbccdd"
HASH = "ab" * 32


class SheetCase(unittest.TestCase):
    def setUp(self):
        job = job_with([camera(1, purpose="observe"), camera(2)])
        job = record_checks(
            [Check(device="cam-1", check="clip", outcome="failed", by="WA", at="2026-11-20T09:00:00")]
        ).apply(job)
        job = open_snag("cam-2", "cover missing", "WA", "2026-11-20T09:05:00").apply(job)
        self.job = tick_mounting([Tick(step="cam-1/parts", by="WA", at="2026-11-20T08:00:00")]).apply(job)
        self.base = sheet_data(assess(self.job), "2026-11-20T10:00", (), SHEET)["base"]

    def sheet(self, by="B. Fell", checks=(), ticks=(), snags=(), photos=None, base=None):
        made = [{"id": f"c-{at}", "by": by, "at": "2026-11-20T12:00:00", **check} for at, check in enumerate(checks)]
        noted = [{"by": by, "at": "2026-11-20T12:00:00", "outcome": "done", **tick} for tick in ticks]
        return field_file_from(
            json.dumps(
                {
                    "format": "eager-lens-field-sheet",
                    "version": 1,
                    "sheet": SHEET,
                    "job": "Test job",
                    "made_at": "2026-11-20T10:00",
                    "saved_at": "2026-11-20T13:00:00",
                    "by": by,
                    "base": base or self.base,
                    "ticks": noted,
                    "checks": made,
                    "snags": list(snags),
                    "photos": photos or {},
                }
            )
        )

    def held(self, file, job=None, handed_out=None):
        given = base_digest(Base.model_validate(self.base)) if handed_out is None else handed_out
        return merging(assess(job or self.job), file, given)

    def taken(self, file, job=None, decided=None, photos=None):
        job = job or self.job
        return merged_edit(self.held(file, job), decided or {}, photos or {}).apply(job)


class Agreeing(SheetCase):
    def test_what_only_the_sheet_says_is_taken_in_in_one_step(self):
        photo = "p-0011223344556677"
        file = self.sheet(
            checks=[
                {"device": "cam-1", "check": "clip", "outcome": "passed", "value": "12:00"},
                {"device": "cam-2", "check": "density", "outcome": "failed", "measured": 40.0, "photos": [photo]},
            ],
            ticks=[{"step": "cam-1/gland"}, {"step": "cam-2/film", "outcome": "skipped"}],
            snags=[{"id": "snag-f1", "device": "cam-1", "text": "hedge in view", "owner": "gardener"}],
            photos={photo: "data:image/jpeg;base64,/9g="},
        )
        found = self.held(file)
        self.assertEqual(found.conflicts, ())
        self.assertIn("B. Fell: 2 tests, 2 mounting steps, 1 snag and 1 photo", found.words)
        job = self.taken(file, photos={photo: HASH})
        latest = latest_checks(job)
        self.assertEqual((latest["cam-1", "clip"].outcome, latest["cam-1", "clip"].how), ("passed", "field sheet"))
        self.assertEqual(latest["cam-2", "density"].photos, (HASH,))
        self.assertEqual(
            {tick.step: tick.outcome for tick in job.mounting},
            {"cam-1/parts": "done", "cam-1/gland": "done", "cam-2/film": "skipped"},
        )
        states = {snag.text: snag.state for snag in job.snags}
        self.assertEqual(states["hedge in view"], "open")
        self.assertEqual(states["Clip found failed"], "put right", "the pass on the sheet closes the failure's snag")

    def test_the_same_sheet_twice_brings_nothing_new(self):
        file = self.sheet(
            checks=[{"device": "cam-1", "check": "label", "outcome": "passed"}],
            ticks=[{"step": "cam-1/gland"}],
            snags=[{"id": "snag-f1", "device": "cam-1", "text": "hedge"}],
        )
        job = self.taken(file)
        again = self.held(file, job)
        self.assertEqual((again.checks, again.ticks, again.snags, again.known), ((), (), (), 3))
        with self.assertRaisesRegex(RefusedInput, "nothing new"):
            self.taken(file, job)

    def test_two_peoples_sheets_of_different_things(self):
        job = self.taken(self.sheet("A", checks=[{"device": "cam-1", "check": "label", "outcome": "passed"}]))
        job = self.taken(self.sheet("B", checks=[{"device": "cam-2", "check": "label", "outcome": "passed"}]), job)
        self.assertEqual({one.by for one in job.checks}, {"WA", "A", "B"})

    def test_a_snag_that_only_the_sheet_changed(self):
        snag = self.base["snags"]["snag-2"]
        file = self.sheet(
            snags=[{**snag, "state": "put right", "closed_by": "B", "closed_at": "x", "outcome": "new cover"}]
        )
        job = self.taken(file)
        self.assertEqual([(one.id, one.state) for one in job.snags], [("snag-1", "open"), ("snag-2", "put right")])

    def test_devices_that_are_gone_are_left_out_and_told(self):
        file = self.sheet(checks=[{"device": one, "check": "label", "outcome": "passed"} for one in ("cam-1", "cam-9")])
        found = self.held(file)
        self.assertEqual((len(found.checks), found.strangers), (1, ("cam-9",)))
        self.assertIn("1 device is no longer in the job", found.words)
        with self.assertRaisesRegex(RefusedInput, "none of its devices"):
            self.held(self.sheet(checks=[{"device": "cam-9", "check": "label", "outcome": "passed"}]))


class Differing(SheetCase):
    def test_two_results_of_one_test_both_stay_on_record(self):
        theirs = self.sheet(checks=[{"device": "cam-1", "check": "label", "outcome": "failed", "value": "other MAC"}])
        mine = Check(device="cam-1", check="label", outcome="passed", by="WA", at="2026-11-20T11:00:00")
        job = record_checks([mine]).apply(self.job)
        (conflict,) = self.held(theirs, job).conflicts
        self.assertEqual(conflict.what, "Label: Camera 1")
        self.assertEqual(conflict.in_job, "passed · WA · 2026-11-20 11:00")
        self.assertEqual(conflict.on_sheet, "failed · other MAC · B. Fell · 2026-11-20 12:00")
        with self.assertRaisesRegex(RefusedInput, "1 difference is not decided"):
            self.taken(theirs, job)
        for side, counts in (("sheet", "failed"), ("job", "passed")):
            after = self.taken(theirs, job, {conflict.key: side})
            self.assertEqual(latest_checks(after)["cam-1", "label"].outcome, counts)
            outcomes = [one.outcome for one in after.checks if one.check == "label"]
            self.assertIn("failed", outcomes)
            self.assertIn("passed", outcomes)

    def test_a_failure_that_counts_leaves_its_snag_open(self):
        failed = Check(
            device="cam-1", check="label", outcome="failed", by="WA", at="2026-11-20T11:00:00", value="other MAC"
        )
        job = record_checks([failed]).apply(self.job)
        before = [one for one in job.snags if one.check == "label"]
        file = self.sheet(checks=[{"device": "cam-1", "check": "label", "outcome": "passed"}])
        (conflict,) = self.held(file, job).conflicts
        after = self.taken(file, job, {conflict.key: "job"})
        self.assertEqual(
            [one for one in after.snags if one.check == "label"], before, "nobody closed it, nobody opened another"
        )
        self.assertEqual([one.outcome for one in after.checks if one.check == "label"], ["passed", "failed"])

    def test_the_later_of_two_alike_counts(self):
        for at, counts in (("2026-11-20T13:00:00", "WA"), ("2026-11-20T11:00:00", "B. Fell")):
            mine = Check(device="cam-1", check="label", outcome="passed", by="WA", at=at)
            job = record_checks([mine]).apply(self.job)
            file = self.sheet(checks=[{"device": "cam-1", "check": "label", "outcome": "passed"}])
            self.assertEqual(latest_checks(self.taken(file, job))["cam-1", "label"].by, counts)

    def test_the_same_result_twice_is_no_difference(self):
        job = record_checks(
            [Check(device="cam-1", check="label", outcome="passed", by="WA", at="2026-11-20T11:00:00")]
        ).apply(self.job)
        file = self.sheet(checks=[{"device": "cam-1", "check": "label", "outcome": "passed"}])
        self.assertEqual(self.held(file, job).conflicts, ())

    def test_a_step_left_out_by_one_and_done_by_the_other(self):
        job = tick_mounting([Tick(step="cam-2/gland", by="WA", at="2026-11-20T11:00:00")]).apply(self.job)
        file = self.sheet(ticks=[{"step": "cam-2/gland", "outcome": "skipped"}])
        (conflict,) = self.held(file, job).conflicts
        self.assertEqual((conflict.in_job[:4], conflict.on_sheet[:8]), ("done", "left out"))
        for side, outcome in (("job", "done"), ("sheet", "skipped")):
            if side == "sheet":
                after = self.taken(file, job, {conflict.key: side})
                self.assertEqual({t.step: t.outcome for t in after.mounting}["cam-2/gland"], outcome)
            else:
                with self.assertRaisesRegex(RefusedInput, "nothing new"):
                    self.taken(file, job, {conflict.key: side})

    def test_a_snag_that_both_changed(self):
        snag = self.base["snags"]["snag-2"]
        file = self.sheet(snags=[{**snag, "owner": "carpenter"}])
        job = set_snags(["snag-2"], "x", owner="glazier").apply(self.job)
        (conflict,) = self.held(file, job).conflicts
        self.assertEqual((conflict.in_job, conflict.on_sheet), ("owner glazier", "owner carpenter"))
        self.assertEqual(self.taken(file, job, {conflict.key: "sheet"}).snags[1].owner, "carpenter")
        closed = close_snags(["snag-2"], "put right", "done", "WA", "x").apply(self.job)
        self.assertEqual(len(self.held(file, closed).conflicts), 1)

    def test_two_peoples_sheets_of_the_same_thing(self):
        one = self.sheet("A", checks=[{"device": "cam-1", "check": "density", "outcome": "passed", "measured": 130}])
        other = self.sheet("B", checks=[{"device": "cam-1", "check": "density", "outcome": "passed", "measured": 90}])
        (conflict,) = self.held(other, self.taken(one)).conflicts
        self.assertEqual(conflict.in_job.partition(" · A")[0], "passed · 130 px/m")


class Forged(SheetCase):
    """The state that a sheet says it was made from is believed only where it is the one that was handed out."""

    def setUp(self):
        super().setUp()
        failed = Check(
            device="cam-1", check="label", outcome="failed", by="WA", at="2026-11-20T15:00:00", value="other"
        )
        self.later = record_checks([failed]).apply(self.job)
        self.snag = next(one for one in self.later.snags if one.check == "label")
        forged = {
            **self.base["checks"],
            "cam-1/label": {"outcome": "failed", "by": "WA", "at": "2026-11-20T15:00:00", "value": "other"},
        }
        snags = {**self.base["snags"], self.snag.id: self.snag.model_dump(mode="json", exclude={"photos"})}
        self.forged = self.sheet(
            checks=[{"device": "cam-1", "check": "label", "outcome": "passed", "at": "2026-11-20T09:00:00"}],
            snags=[{**snags[self.snag.id], "state": "put right", "outcome": "done"}],
            base={**self.base, "checks": forged, "snags": snags},
        )

    def test_a_forged_state_makes_every_difference_a_question(self):
        found = self.held(self.forged, self.later)
        self.assertEqual({one.key for one in found.conflicts}, {"check/cam-1/label", f"snag/{self.snag.id}"})
        kept = self.taken(self.forged, self.later, {one.key: "job" for one in found.conflicts})
        self.assertEqual(latest_checks(kept)["cam-1", "label"].outcome, "failed")
        self.assertIn("open", {one.state for one in kept.snags if one.check == "label"})

    def test_an_older_result_is_asked_about_whatever_the_state_is(self):
        found = self.held(self.forged, self.later, base_digest(self.forged.base))
        self.assertIn("check/cam-1/label", {one.key for one in found.conflicts})

    def test_what_was_handed_out_stands_in_the_log(self):
        with tempfile.TemporaryDirectory() as folder:
            log = Path(folder) / "yard.log.jsonl"
            made = field_sheet(assess(self.job), "2026-11-20T10:00", (), SHEET)
            event = handed_out_event(made.id, made.base, "yard field sheet.html")
            append(log, [(event, datetime(2026, 11, 20, 10, tzinfo=UTC))], "WA", "test")
            back = self.sheet(checks=[{"device": "cam-2", "check": "label", "outcome": "passed"}])
            self.assertEqual(base_handed_out(log, SHEET), base_digest(back.base))
            self.assertEqual(base_handed_out(log, "ffff" * 4), "")
            self.assertEqual(base_handed_out(None, SHEET), "")

    def test_a_sheet_of_another_job_with_the_same_ids_is_refused(self):
        other = self.job.model_copy(update={"name": "Another job"})
        with self.assertRaisesRegex(RefusedInput, "this job is “Another job”"):
            self.held(self.sheet(checks=[{"device": "cam-1", "check": "label", "outcome": "passed"}]), other, "")
        # Renamed since it was handed out: the log knows it.
        self.held(self.sheet(checks=[{"device": "cam-1", "check": "label", "outcome": "passed"}]), other)

    def test_times_that_cannot_be_are_refused(self):
        for at in ("2026-11-21T12:00:00", "2026-99-99T99:99:99", "9999-12-31T23:59:00", "0000-01-01T00:00"):
            with self.subTest(at), self.assertRaisesRegex(RefusedInput, r"checks\[0\].at"):
                check = {"device": "cam-1", "check": "label", "outcome": "passed", "at": at}
                self.held(self.sheet(checks=[check]))


class Reading(SheetCase):
    def test_what_is_no_saved_sheet_is_refused_with_where(self):
        good = self.sheet().model_dump(mode="json")
        for change, words in (
            ({"format": "shopping"}, "not a saved field sheet"),
            ({"version": 9}, "version 9"),
            ({"sheet": "x"}, "sheet"),
            ({"checks": [{"device": "cam-1"}]}, r"checks\[0\]"),
            ({"ticks": 4}, "ticks"),
            ({"more": 1}, "more"),
            ({"photos": {"../../x": "data:"}}, "photos"),
            ({"made_at": "yesterday"}, "made_at"),
        ):
            with self.assertRaisesRegex(RefusedInput, words, msg=change):
                field_file_from(json.dumps({**good, **change}))
        for text in ("", "[]", "null", "{"):
            with self.assertRaises(RefusedInput):
                field_file_from(text)

    def test_photos(self):
        self.assertEqual(photo_bytes("data:image/jpeg;base64," + base64.b64encode(b"\xff\xd8x").decode()), b"\xff\xd8x")
        for wrong in ("data:image/png;base64,AAAA", "https://example.invalid/x.jpg", "data:image/jpeg;base64,A"):
            with self.assertRaises(DamagedFile):
                photo_bytes(wrong)


class Page(SheetCase):
    def test_one_file_without_a_network(self):
        page = field_sheet(assess(demo_job()), "2026-11-20T10:00").text
        self.assertLess(len(page.encode()), 400_000)
        self.assertIn("default-src 'none'", page)
        for outside in ("http://", "https://", 'src="', 'href="', "@import", "url("):
            self.assertNotIn(outside, page)

    def test_names_cannot_end_the_script(self):
        job = job_with([camera(1, name="</script><img src=x onerror=alert(1)>", place="<!--")])
        page = field_sheet(assess(job), "2026-11-20T10:00").text
        self.assertEqual(page.count("</script>"), 2)
        self.assertNotIn("<img", page)

    def test_some_devices_only(self):
        data = sheet_data(assess(demo_job()), "2026-11-20T10:00", ("cam-3", "site"), SHEET)
        self.assertEqual([one["id"] for one in data["devices"]], ["cam-3", "site"])
        self.assertTrue(all(key.startswith("cam-3/") for key in (*data["base"]["checks"], *data["base"]["ticks"])))


if __name__ == "__main__":
    unittest.main()
