"""Devices that answer in ways of their own: read all the same, with what is odd about them told."""

from functools import cache

from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.model import changed
from tests.onsite.base import InNamespaces, small_job

CAPPED = {"measured_mbps": None, "rate_control": "capped VBR", "cap_mbps": 0.5}
FAULTS = (
    "loose-answers=Camera 1",
    "tls-only=Camera 2",
    "wants-both=Camera 3",
    "cap-not-set=Camera 4",
    "rule-off=Camera 5",
)


class Ways(InNamespaces):
    words = tuple(word for fault in FAULTS for word in ("--fault", fault))

    @classmethod
    def job(cls):
        return small_job(6, [CAPPED] * 6)

    @classmethod
    @cache
    def found(cls):
        return cls.site.check("--seconds", "2")

    def row(self, at):
        return next(row for row in self.found()["rows"] if row["name"] == f"Camera {at}")

    def read(self, at):
        return next(one for one in self.found()["run"]["read"] if one["device"] == f"cam-{at}")

    def codes(self, at):
        return {line["code"] for line in self.row(at)["lines"]}

    def test_all_of_them_are_read_and_compared(self):
        for at in range(1, 7):
            with self.subTest(at):
                self.assertEqual(self.read(at)["login"], "in")
                self.assertEqual(self.read(at)["main"]["outcome"], "opened")
                self.assertTrue(self.row(at)["compared"], self.row(at))

    def test_what_is_not_by_the_standard_is_told(self):
        notes = " ".join(self.row(1)["notes"])
        for words in (
            "a search without a list",
            "at 0.0.0.0",
            "local time only",
            "no serial",
            "does not answer GetProfiles",
        ):
            self.assertIn(words, notes)
        self.assertEqual(self.read(1)["told"]["profiles"][0]["by"], "media 1")
        self.assertLess(abs(self.read(1)["told"]["time"]["off_s"]), 10)
        self.assertEqual(self.codes(1), set())

    def test_over_tls_the_certificate_is_kept(self):
        told = self.read(2)["told"]
        self.assertTrue(told["is_secure"])
        self.assertEqual(len(told["certificate"]), 64)
        self.assertEqual(self.codes(2), set())

    def with_certificate(self, certificate):
        """The reading of camera 2 where the job remembers a certificate of it."""
        text = self.site.path.read_text("utf-8")
        job = job_from_text(text)
        cameras = [changed(one, certificate_sha256=certificate if one.id == "cam-2" else "") for one in job.cameras]
        try:
            self.site.path.write_text(job_text(changed(job, cameras=tuple(cameras))), "utf-8")
            found = self.site.check("--only", "cam-2", "--seconds", "2")
        finally:
            self.site.path.write_text(text, "utf-8")
        return found["run"]["read"][0], {line["code"] for line in found["rows"][0]["lines"]}

    def test_another_certificate_than_the_remembered_one_gets_nothing(self):
        shown = self.read(2)["told"]["certificate"]
        read, codes = self.with_certificate(shown)
        self.assertEqual((read["login"], read["told"]["certificate"], codes), ("in", shown, set()))
        read, codes = self.with_certificate("ab" * 32)
        self.assertEqual((read["told"], read["other_certificate"], codes), (None, shown, {"certificate-changed"}))
        self.assertIsNone(read["main"])  # no log-in at its stream either

    def test_a_maximum_that_is_missing_and_a_rule_that_is_off_are_told(self):
        self.assertEqual(self.codes(4), {"cap-not-set"})
        self.assertEqual(self.codes(5), {"motion-rule-off"})
        self.assertEqual((self.codes(3), self.codes(6)), (set(), set()))

    def test_some_devices_only(self):
        found = self.site.check("--only", "cam-6", "--without", "stream")
        self.assertEqual([row["name"] for row in found["rows"]], ["Camera 6"])
        self.assertEqual([read["device"] for read in found["run"]["read"]], ["cam-6"])
        self.assertEqual(found["status"], 0)
