"""Parts by hand, and the four ways: what each rewires, what it costs, and that nothing is lost on the way."""

import random
import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.model import EMPTY_JOB, Link, NetworkDevice, PowerUnit
from eager_lens.core.options.wiring_options import option_figures
from eager_lens.core.planning.attaching import ATTACHMENTS, attach, attached
from eager_lens.core.present.parts import more_than, parts_list
from tests.core.assess.test_failing import random_site, reached
from tests.support import camera, demo_job, job_with, recorder, repeats, switch


def office(cameras=6, **fields):
    """Cameras, their recorder and the router on one switch."""
    links = [Link(id=f"l{n}", a=f"cam-{n}", b="net-1", b_port=n) for n in range(1, cameras + 1)]
    links += [Link(id="r", a="rec-1", a_port=1, b="net-1"), Link(id="o", a="net-9", a_port=1, b="net-1")]
    router = NetworkDevice(id="net-9", name="Router", role="router", ports=5, wan_port=5, poe_ports=0)
    base = {
        "network": (switch(1, ports=24, poe_ports=20, budget_w=300), router),
        "links": tuple(links),
    }
    return job_with([camera(n, measured_mbps=4) for n in range(1, cameras + 1)], **{**base, **fields})


class Parts(unittest.TestCase):
    def quantities(self, job):
        return {part.what: part.quantity for part in parts_list(assess(job).facts)}

    def test_cable_is_summed_by_type_with_waste_and_rounded_up(self):
        job = office(
            3,
            cable_waste_share=0.15,
            power_units=(
                PowerUnit(id="p", name="S", length_m=7, area_mm2=1.5),
                PowerUnit(id="q", name="I", kind="injector"),
            ),
        )
        cameras = (
            job.cameras[0].model_copy(update={"cable_m": 20.0}),
            job.cameras[1].model_copy(update={"cable_m": 33.0}),
            job.cameras[2].model_copy(update={"cable_m": 50.0, "outdoor": True}),
        )
        got = self.quantities(job.model_copy(update={"cameras": cameras}))
        self.assertEqual(got["Network cable, 24 AWG solid copper, indoors"], 61)  # 53 x 1.15 = 60.95
        self.assertEqual(got["Network cable, 24 AWG solid copper, outdoors"], 58)  # 57.5
        self.assertEqual(got["Supply wire, pair of 1.5 mm²"], 9)  # 8.05
        self.assertEqual(got["Runs without a length"], 2)
        self.assertEqual((got["Network plug, crimped"], got["Surge protector, network"]), (10, 2))
        self.assertEqual((got["Injector, PoE class 4"], got["Power supply, 12 V DC, 60 W"]), (1, 1))

    def test_radio_needs_no_cable_and_fibre_no_plugs(self):
        links = (
            Link(id="a", a="net-1", b="net-2", medium="radio", length_m=900),
            Link(id="f", a="net-1", b="net-2", medium="fibre", length_m=100, outdoor=True),
        )
        got = self.quantities(job_with(network=(switch(1), switch(2)), links=links))
        self.assertEqual(got["Fibre, outdoors"], 110)
        self.assertNotIn("Network plug, crimped", got)

    def test_more_than_tells_only_what_is_new(self):
        before = parts_list(assess(office()).facts)
        after = parts_list(assess(office(network=(*office().network, switch(2)))).facts)
        self.assertEqual(
            [(p.what, p.quantity) for p in more_than(after, before)],
            [("Switch, 10 ports, 8 PoE ports to class 4, 120 W", 1)],
        )
        self.assertEqual(more_than(before, before), [])


class Ways(unittest.TestCase):
    def test_every_way_of_every_job_keeps_all_cameras_recorded_and_wired(self):
        for make in (demo_job, office, lambda: office(links=()), lambda: office(network=(), links=())):
            job = make()
            for first in ATTACHMENTS:
                for second in ATTACHMENTS:
                    with self.subTest(first=first, second=second):
                        rewired = attached(attached(job, first), second)
                        assessment = assess(rewired)
                        self.assertEqual(rewired.cameras, job.cameras)
                        self.assertEqual(assessment.facts.topology.loose, ())
                        self.assertEqual(assessment.facts.topology.wiring.loops, ())
                        lost = {c.id for c in job.cameras if c.registered and c.registered[0].recorder} - {"cam-13"}
                        self.assertFalse(lost & set(assessment.facts.topology.cut_off))
                        in_words = {finding.code for finding in assessment.findings}
                        self.assertFalse(
                            in_words & {"port-twice", "no-such-port", "too-few-ports", "link-without-device"}
                        )

    def test_random_sites_come_out_whole(self):
        for seed in range(repeats(15, 60)):
            job = random_site(random.Random(seed))
            for attachment in ATTACHMENTS:
                rewired = attached(job, attachment)
                lost = [c.id for c in job.cameras if c.id not in reached(rewired, c.registered[0].recorder)]
                with self.subTest(seed=seed, attachment=attachment):
                    self.assertEqual(lost, [])
                    self.assertEqual(assess(rewired).facts.topology.loose, ())

    def test_the_office_carries_recording_only_on_the_main_network(self):
        got = {attachment: option_figures(assess(office()), attachment) for attachment in ATTACHMENTS}
        self.assertEqual([got[attachment].office_mbps for attachment in ATTACHMENTS], [24, 0, 0, 0])
        self.assertEqual([got[attachment].in_reach for attachment in ATTACHMENTS], [6, 0, 0, 6])
        self.assertEqual([got[attachment].on_ports for attachment in ATTACHMENTS], [0, 0, 6, 6])
        self.assertEqual([got[attachment].is_present for attachment in ATTACHMENTS], [True, False, False, False])

    def test_what_is_in_reach_is_what_plain_search_finds(self):
        """From the recorder's side: what is apart from the office hangs on no way to the router but the recorder."""
        for attachment in ATTACHMENTS:
            rewired = attached(office(), attachment)
            closed = {r.id for r in rewired.recorders if r.attachment != "bridged PoE ports"}
            by_hand = reached(rewired, "net-9") if not closed else self._around(rewired, "net-9", closed)
            cameras = {one.id for one in rewired.cameras}
            self.assertEqual(len(by_hand & cameras), option_figures(assess(office()), attachment).in_reach, attachment)

    def _around(self, job, start, closed):
        found, waiting = {start}, [start]
        while waiting:
            here = waiting.pop()
            for link in job.links:
                if here in (link.a, link.b) and here not in closed:
                    other = link.far_end(here)[0]
                    if other not in found:
                        found.add(other)
                        waiting.append(other)
        return found

    def test_recorder_ports_are_bought_and_their_limits_stay(self):
        got = option_figures(assess(office(20)), "recorder PoE ports")
        self.assertEqual(got.on_ports, 16)
        self.assertIn("16 PoE ports", got.buy[0].what)
        rewired = attached(office(20), "recorder PoE ports")
        capacities = assess(rewired).facts.topology.wiring.capacity_mbps
        on_ports = [link.id for link in rewired.links if "rec-1" in (link.a, link.b) and "cam" in link.a]
        self.assertEqual({capacities[link] for link in on_ports}, {100})

    def test_a_far_switch_keeps_its_cameras_and_hangs_on_the_recorder(self):
        job = office(4, network=(switch(1), switch(2, place="Yard"), *office().network[1:]))
        links = tuple(
            link.model_copy(update={"b": "net-2"}) if link.a in ("cam-3", "cam-4") else link for link in job.links
        )
        job = job.model_copy(update={"links": (*links, Link(id="up", a="net-2", b="net-1"))})
        rewired = attached(job, "recorder PoE ports")
        ends = {frozenset((link.a, link.b)) for link in rewired.links}
        self.assertIn(frozenset(("cam-1", "rec-1")), ends)
        self.assertIn(frozenset(("cam-3", "net-2")), ends)
        self.assertIn("rec-1", self._around(rewired, "net-2", set()))

    def test_it_is_one_step_with_a_name(self):
        job = office()
        edit = attach(job, "bridged PoE ports")
        self.assertEqual(edit.label, "Attach cameras: the recorder's PoE ports, bridged")
        self.assertEqual(edit.apply(job), attached(job, "bridged PoE ports"))

    def test_new_switches_have_names_and_ids_of_their_own(self):
        cameras = [camera(n, registered=()) for n in range(1, 101)]
        rewired = attached(job_with(cameras, network=(), spare_network=(switch(40),)), "LAN")
        self.assertGreater(len(rewired.network), 2)
        self.assertEqual(len({one.name for one in rewired.network}), len(rewired.network))
        self.assertEqual(rewired.network[0].id, "net-41", "after the spare one's")
        self.assertEqual(len({link.id for link in rewired.links}), len(rewired.links))

    def test_nothing_to_attach_is_refused_with_a_reason(self):
        for job in (EMPTY_JOB, job_with([camera(1)], recorders=()), job_with()):
            with self.assertRaisesRegex(RefusedInput, "a camera and a recorder"):
                attach(job, "LAN")

    def test_two_recorders_stay_each_with_their_own(self):
        job = demo_job()
        for attachment in ATTACHMENTS:
            recorders = {r.id for r in attached(job, attachment).recorders}
            self.assertEqual(recorders, {"rec-1", "rec-2"})
        self.assertEqual(recorder(1).attachment, "LAN")


if __name__ == "__main__":
    unittest.main()
