"""Which device an answer is, and whether it may be given that device's password."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.errors import RefusedInput
from eager_lens.core.site_check.lines import SiteCode
from eager_lens.core.site_check.matching import is_certain, matched
from eager_lens.core.site_check.readings import CheckRun, DeviceRead, Heard, StreamRead
from eager_lens.core.site_check.take_over import take_over
from eager_lens.core.site_check.verdicts import rows_of
from tests.support import camera, job_with

OWN, STRANGE = "02:5b:1e:00:01:01", "02:5b:1e:00:09:09"
PLANNED, OTHER = "172.22.40.40", "172.22.40.99"


def job_of(**fields):
    return job_with([camera(1, **{"mac_address": OWN, "serial": "QU-1", **fields})])


def certain(*heard, job=None, arp_heard=True, on_loopback=False):
    """The addresses at which somebody would log in, each with the device that is taken to be there."""
    found = matched(job or job_of(), heard, arp_heard)
    return {one.seen.address: one.device.id for one in found if is_certain(one, on_loopback)}


def outcomes(*heard, job=None, arp_heard=True):
    found = matched(job or job_of(), heard, arp_heard)
    return {one.seen.address: one.outcome for one in found if one.seen is not None}


class Contradictions(unittest.TestCase):
    def test_a_serial_that_is_told_does_not_outweigh_a_mac_address(self):
        impostor = Heard(address=OTHER, mac_addresses=(STRANGE,), serial="QU-1")
        self.assertEqual(outcomes(impostor), {OTHER: "contradicted"})
        self.assertEqual(certain(impostor), {})
        true_one = Heard(address=PLANNED, mac_addresses=(OWN,), serial="QU-1")
        self.assertEqual(certain(true_one, impostor), {PLANNED: "cam-1"})
        self.assertEqual(outcomes(true_one, impostor), {PLANNED: "as planned", OTHER: "contradicted"})

    def test_a_mac_address_that_is_told_is_not_one_that_was_seen(self):
        for heard in (
            Heard(address=OTHER, told_mac=OWN, endpoints=("urn:x",)),
            Heard(address=OTHER, mac_addresses=(STRANGE,), told_mac=OWN),
            Heard(address=PLANNED, told_mac=OWN, endpoints=("urn:x",)),
        ):
            for arp_heard in (True, False):
                with self.subTest(heard=heard, arp_heard=arp_heard):
                    self.assertEqual(certain(heard, arp_heard=arp_heard), {})

    def test_its_mac_address_with_the_serial_of_another_is_told(self):
        both = job_with([camera(1, mac_address=OWN, serial="QU-1"), camera(2, serial="QU-2")])
        heard = Heard(address=PLANNED, mac_addresses=(OWN,), serial="QU-2")
        self.assertEqual(outcomes(heard, job=both), {PLANNED: "contradicted"})
        self.assertEqual(certain(heard, job=both), {})

    def test_two_that_tell_one_serial_are_both_in_doubt(self):
        job = job_of(mac_address="")
        two = [Heard(address=at, mac_addresses=(mac,), serial="QU-1") for at, mac in ((PLANNED, OWN), (OTHER, STRANGE))]
        self.assertEqual(set(outcomes(*two, job=job).values()), {"contradicted"})
        self.assertEqual(certain(*two, job=job), {})

    def test_one_device_on_two_addresses_is_one_device(self):
        two = [Heard(address=at, mac_addresses=(OWN,)) for at in (PLANNED, "169.254.7.7")]
        self.assertEqual(certain(*two), {PLANNED: "cam-1", "169.254.7.7": "cam-1"})

    def test_without_a_noted_mac_address_only_the_planned_address_counts(self):
        job = job_of(mac_address="")
        self.assertEqual(certain(Heard(address=PLANNED, mac_addresses=(STRANGE,)), job=job), {PLANNED: "cam-1"})
        self.assertEqual(certain(Heard(address=OTHER, mac_addresses=(STRANGE,), serial="QU-1"), job=job), {})
        self.assertEqual(certain(Heard(address=PLANNED, mac_addresses=(STRANGE,), serial="X"), job=job), {})

    def test_several_on_one_address_are_nobody(self):
        self.assertEqual(certain(Heard(address=PLANNED, mac_addresses=(OWN, STRANGE))), {})

    def test_on_loopback_no_mac_addresses_are_seen(self):
        heard = Heard(address=PLANNED, told_mac=OWN, endpoints=("urn:x",))
        self.assertEqual(certain(heard, arp_heard=False, on_loopback=True), {PLANNED: "cam-1"})

    def test_an_answer_without_a_mac_address_condemns_nobody(self):
        self.assertEqual(outcomes(Heard(address=PLANNED, by=("TCP",)), arp_heard=False), {PLANNED: "by address alone"})


class Told(unittest.TestCase):
    def test_another_device_that_claims_is_a_finding_and_nothing_of_it_is_taken(self):
        impostor = Heard(address=OTHER, mac_addresses=(STRANGE,), serial="QU-1", firmware="9.9")
        stream = StreamRead(outcome="opened", codec="h264", width_px=640, height_px=360, fps=12, mean_mbps=9, read_s=5)
        read = DeviceRead(device="cam-1", address=OTHER, login="in", main=stream)
        run = CheckRun(
            at="2026-03-02T12:00:00Z", laptop=("172.22.40.9/24",), arp_heard=True, heard=(impostor,), read=(read,)
        )
        assessment = assess(job_of())
        row = next(one for one in rows_of(assessment, run) if one.name == "Camera 1")
        self.assertEqual([line.code for line in row.lines], [SiteCode.CONTRADICTED])
        self.assertIn("claims to be Camera 1", row.verdict)
        with self.assertRaises(RefusedInput):
            take_over(assessment, run)
