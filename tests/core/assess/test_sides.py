"""The two sides of a recorder: what hangs where, and which subnet belongs there."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.enquiry.build import job_for
from eager_lens.core.enquiry.enquiry import Enquiry, PlaceWanted
from eager_lens.core.job.model import changed
from tests.onsite.base import small_job


class Sides(unittest.TestCase):
    """A camera on the recorder's own PoE ports is not on its LAN, and the other way round."""

    def test_a_camera_on_the_wrong_side_is_told_and_put_right(self):
        job = small_job(3)
        (recorder,) = job.recorders
        first = changed(job.links[-1], id="link-new", a=job.cameras[0].id, a_port=0, b=recorder.id, b_port=1)
        links = tuple(
            changed(link, **{"a_port" if link.a == recorder.id else "b_port": 5})
            if recorder.id in (link.a, link.b)
            else link
            for link in job.links
            if job.cameras[0].id not in (link.a, link.b)
        )
        second = changed(job.subnets[0], id="lan-2", name="Cameras", cidr="172.22.60.0/24", gateway="")
        own = changed(
            recorder,
            attachment="recorder PoE ports",
            ports=6,
            poe_ports=4,
            budget_w=60,
            camera_interface_subnet="lan-2",
            camera_interface_address="172.22.60.1",
        )
        job = changed(job, links=(*links, first), recorders=(own,), subnets=(*job.subnets, second))
        found = [one for one in assess(job).findings if one.code == "wrong-interface"]
        self.assertEqual([one.subjects for one in found], [("cam-1",)])
        job = found[0].fix.apply(job)
        camera = job.cameras[0]
        self.assertEqual((camera.subnet, camera.address[:10]), ("lan-2", "172.22.60."))
        self.assertFalse([one for one in assess(job).findings if one.code == "wrong-interface"])

    def test_an_enquiry_puts_far_cameras_into_the_lan(self):
        """Those in another building come in at the recorder's other ports."""
        places = (
            PlaceWanted(name="Office", views={"door": 3}),
            PlaceWanted(name="Shed", distance_m=80, other_building=True, views={"door": 2}),
        )
        job = job_for(Enquiry(name="Two houses", places=places, attachment="recorder PoE ports"))
        (recorder,) = job.recorders
        subnets = {camera.place: camera.subnet for camera in job.cameras}
        self.assertEqual(subnets, {"Office": recorder.camera_interface_subnet, "Shed": recorder.subnet})
        self.assertFalse([one for one in assess(job).findings if one.code == "wrong-interface"])


if __name__ == "__main__":
    unittest.main()
