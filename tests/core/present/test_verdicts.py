"""Headlines say what is so: no success is claimed for what is not there yet."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.model import Link
from eager_lens.core.present.stages import verdict_of
from tests.core.assess.test_power import fed
from tests.support import camera, recorder


def site(plugged, total=21):
    links = [Link(id=f"l{n}", a=f"cam-{n}", b="net-1", b_port=n) for n in range(1, plugged + 1)]
    links.append(Link(id="up", a="rec-1", b="net-1", b_port=24))
    switch = {"ports": 24, "poe_ports": 23, "budget_w": 370}
    cameras = [camera(n, power_w=5) for n in range(1, total + 1)]
    return assess(fed(*cameras, links=tuple(links), switch=switch, recorders=[recorder(channels=32)]))


class Wiring(unittest.TestCase):
    def test_cameras_that_are_not_connected_are_counted(self):
        self.assertEqual(verdict_of("wiring", site(6)).sentence, "15 of 21 cameras are not connected yet")

    def test_everything_is_fed_only_when_it_is(self):
        self.assertTrue(verdict_of("wiring", site(21)).sentence.startswith("Everything is fed"))


if __name__ == "__main__":
    unittest.main()
