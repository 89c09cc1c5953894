"""Spare devices: bought, not installed, and no part of any plan until they are."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.edits import add_cameras, set_fields
from eager_lens.core.job.file import job_from_text, job_text
from eager_lens.core.job.spares import install_spares, mark_as_spare, remove_spares
from eager_lens.core.options.remedies.choices import remedies
from eager_lens.core.present.parts import parts_list
from tests.support import demo_job


def codes(job):
    return {(one.code, one.subjects) for one in assess(job).findings}


class Spares(unittest.TestCase):
    def setUp(self):
        self.demo = demo_job()
        extra = [{"name": "Spare dome", "make": "Quill Q2", "serial": "QU-9001"}]
        self.job = add_cameras(extra).apply(self.demo)
        self.new = self.job.cameras[-1].id

    def test_one_that_is_marked_leaves_every_figure_and_finding_as_before(self):
        self.assertGreater(len(codes(self.job) - codes(self.demo)), 2)
        job = mark_as_spare([self.new]).apply(self.job)
        self.assertEqual(codes(job), codes(self.demo))
        self.assertEqual(assess(job).whole, assess(self.demo).whole)
        self.assertEqual([one.name for one in job.spare_devices()], ["Spare dome"])
        (part,) = [one for one in parts_list(assess(job).facts) if one.what.endswith("spare")]
        self.assertEqual((part.group, part.quantity, part.note), ("Cameras", 1, "not installed"))

    def test_a_device_that_was_installed_gives_up_links_and_channels_and_keeps_what_it_is(self):
        job = mark_as_spare(["cam-1", "net-3"]).apply(self.demo)
        camera = job.spare_cameras[0]
        before = next(one for one in self.demo.cameras if one.id == "cam-1")
        self.assertEqual((camera.registered, camera.serial, camera.address), ((), before.serial, before.address))
        self.assertEqual([one.id for one in job.spare_network], ["net-3"])
        self.assertFalse({"cam-1", "net-3"} & {end for link in job.links for end in (link.a, link.b)})
        back = install_spares(["cam-1"]).apply(job)
        self.assertEqual((back.cameras[-1], back.spare_cameras), (camera, ()))

    def test_its_id_is_not_given_again_and_the_file_keeps_it(self):
        job = mark_as_spare([self.new]).apply(self.job)
        again = add_cameras([{"name": "Another"}]).apply(job)
        self.assertNotEqual(again.cameras[-1].id, self.new)
        self.assertEqual(job_from_text(job_text(again)), again)
        installed = install_spares([self.new]).apply(again)
        self.assertEqual(len({one.id for one in installed.devices()}), len(list(installed.devices())))
        self.assertEqual(list(remove_spares([self.new]).apply(job).spare_devices()), [])

    def test_a_finding_about_what_it_lacks_offers_it(self):
        job = set_fields([self.new], "", schedule=self.demo.schedules[0].id).apply(self.job)
        assessment = assess(job)
        for code in ("not-plugged", "no-address"):
            (finding,) = [one for one in assessment.findings if one.code == code and self.new in one.subjects]
            with self.subTest(code):
                labels = [one.edit.label for one in remedies(finding, assessment)]
                self.assertIn("Mark 1 device as spare", labels)


if __name__ == "__main__":
    unittest.main()
