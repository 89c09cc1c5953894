"""Findings about what feeds, joins and carries: each fault is told, each neighbour of it is not, each fix helps."""

import unittest

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.finding import Severity
from eager_lens.core.job.edits import set_fields
from eager_lens.core.job.model import Link, NetworkDevice, Obstacle, PowerUnit, RadioPlan
from tests.support import camera, codes, finding_of, job_with, recorder, switch

FAULT, WARNING, TODO, NOTE = Severity.FAULT, Severity.WARNING, Severity.TODO, Severity.NOTE


def site(**fields):
    """One class 3 camera on a PoE switch with the recorder, a router with its line beside them."""
    links = {
        "cam": Link(id="cam", a="cam-1", a_port=1, b="net-1", b_port=1),
        "rec": Link(id="rec", a="rec-1", a_port=1, b="net-1", b_port=9),
        "out": Link(id="out", a="net-9", a_port=1, b="net-1", b_port=10),
        **fields.pop("links", {}),
    }
    router = {"ports": 5, "wan_port": 5, "poe_ports": 0, "role": "router", "id": "net-9", "name": "Router"}
    router |= fields.pop("router", {})
    cameras = fields.pop("cameras", None) or [camera(1, **fields.pop("camera", {}))]
    return job_with(
        cameras,
        network=(switch(1, **fields.pop("switch", {})), NetworkDevice(**router), *fields.pop("more", ())),
        links=tuple(link for link in links.values() if link is not None),
        **fields,
    )


def unit(kind="supply", feeds=("cam-1",), **fields):
    return PowerUnit(id="pow-1", name="Unit", kind=kind, feeds=feeds, **fields)


def bridge(number, **fields):
    base = {"id": f"net-{number}", "name": f"Bridge {number}", "role": "bridge", "poe_ports": 0}
    return NetworkDevice(**{**base, **fields})


def bridged(a_end="client", b_end="access point", plan=None, length_m=900.0, **fields):
    """The camera behind a bridge pair."""
    links = {
        "cam": Link(id="cam", a="cam-1", b="net-2"),
        "air": Link(id="air", a="net-2", b="net-3", medium="radio", length_m=length_m, radio=plan or RadioPlan()),
        "in": Link(id="in", a="net-3", b="net-1"),
        **fields.pop("links", {}),
    }
    ends = (bridge(2, radio_end=a_end, poe_ports=4), bridge(3, radio_end=b_end))
    return site(links=links, more=(*ends, *fields.pop("more", ())), **fields)


class EachRule(unittest.TestCase):
    CASES = (
        ("wan-port", FAULT, lambda: site(links={"out": Link(id="out", a="net-9", a_port=5, b="net-1")})),
        ("orphan-device", TODO, lambda: site(more=(switch(2),))),
        (
            "router-between",
            WARNING,
            lambda: site(links={"rec": Link(id="rec", a="rec-1", b="net-9", b_port=2)}),
        ),
        (
            "late-key-frame",
            WARNING,
            lambda: site(
                camera={"measured_mbps": 6, "key_frame_s": 8, "fps": 5, "rate_control": "VBR", "cap_mbps": None},
                links={"cam": Link(id="cam", a="cam-1", b="net-1", b_port=1, long_reach=True)},
            ),
        ),
        (
            "outgoing-over",
            FAULT,
            lambda: site(recorders=[recorder(outgoing_limit_mbps=0.4)], router={"viewed_streams": 1}),
        ),
        ("upload-over", FAULT, lambda: site(router={"viewed_streams": 1, "upload_mbps": 0.4})),
        ("upload-near", WARNING, lambda: site(router={"viewed_streams": 1, "upload_mbps": 0.55})),
        ("viewer-cut-off", FAULT, lambda: site(router={"viewed_streams": 4}, links={"out": None})),
        ("long-cable", FAULT, lambda: site(links={"out": Link(id="out", a="net-9", b="net-1", length_m=101)})),
        (
            "long-cable",
            FAULT,
            lambda: site(camera={"cable_m": 251}, links={"cam": Link(id="cam", a="cam-1", b="net-1", long_reach=True)}),
        ),
        ("zero-cable", WARNING, lambda: site(camera={"cable_m": 0})),
        ("zero-cable", WARNING, lambda: site(links={"out": Link(id="out", a="net-9", b="net-1", length_m=0)})),
        ("class-over-port", FAULT, lambda: site(camera={"poe_class": 5})),
        (
            "class-over-port",
            FAULT,
            lambda: site(camera={"poe_class": 5}, power_units=(unit("injector", poe_class=4),)),
        ),
        (
            "port-without-poe",
            FAULT,
            lambda: site(switch={"poe_ports": 4}, links={"cam": Link(id="cam", a="cam-1", b="net-1", b_port=7)}),
        ),
        ("unfed", TODO, lambda: site(camera={"poe_class": None})),
        ("unfed", TODO, lambda: site(links={"cam": Link(id="cam", a="cam-1", b="net-1", medium="fibre")})),
        ("feeds-nothing", FAULT, lambda: site(power_units=(unit(feeds=("cam-1", "cam-9")),))),
        (
            "fed-twice",
            FAULT,
            lambda: site(power_units=(unit(), PowerUnit(id="pow-2", name="Other", feeds=("cam-1",)))),
        ),
        (
            "injector-many",
            FAULT,
            lambda: site(
                cameras=[camera(1), camera(2)],
                links={"two": Link(id="two", a="cam-2", b="net-1", b_port=2)},
                power_units=(unit("injector", ("cam-1", "cam-2")),),
            ),
        ),
        ("wrong-voltage", FAULT, lambda: site(power_units=(unit(output="24 V AC"),))),
        ("supply-over", FAULT, lambda: site(power_units=(unit(budget_w=7.9),))),
        ("uplink-dark", FAULT, lambda: site(switch={"poe_class": 4, "power_w": 5}, more=(switch(2, poe_ports=0),))),
        ("supply-drop", FAULT, lambda: site(power_units=(unit(length_m=40, area_mm2=0.5),))),
        ("ups-over", FAULT, lambda: site(power_units=(unit("ups", ("rec-1", "net-1"), budget_w=40, battery_wh=400),))),
        (
            "ups-short",
            WARNING,
            lambda: site(power_units=(unit("ups", ("rec-1", "net-1"), budget_w=400, battery_wh=10),)),
        ),
        ("ups-partly", WARNING, lambda: site(power_units=(unit("ups", ("rec-1",), budget_w=400, battery_wh=400),))),
        ("same-ends", FAULT, lambda: bridged(a_end="access point")),
        ("same-ends", FAULT, lambda: bridged(b_end="client")),
        ("bridge-alone", FAULT, lambda: site(more=(bridge(4),))),
        (
            "client-twice",
            FAULT,
            lambda: bridged(
                links={"more": Link(id="more", a="net-2", b="net-4", medium="radio")},
                more=(bridge(4, radio_end="access point"),),
            ),
        ),
        ("open-radio", FAULT, lambda: bridged(plan=RadioPlan(security="wep"))),
        ("open-radio", FAULT, lambda: bridged(plan=RadioPlan(security="open"))),
        ("radio-unplanned", NOTE, lambda: bridged(length_m=None)),
        ("radio-weak", FAULT, lambda: bridged(plan=RadioPlan(tx_dbm=-20, tx_gain_dbi=0, rx_gain_dbi=0))),
        ("radio-tight", WARNING, lambda: bridged(plan=RadioPlan(obstacles=(Obstacle(at_m=450, height_m=5),)))),
        ("radio-blocked", FAULT, lambda: bridged(plan=RadioPlan(obstacles=(Obstacle(at_m=450, height_m=7),)))),
        ("air-near", WARNING, lambda: bridged(plan=RadioPlan(tx_dbm=20), camera={"measured_mbps": 42})),
        ("air-over", FAULT, lambda: bridged(plan=RadioPlan(tx_dbm=20), camera={"measured_mbps": 60})),
        (
            "far-end-ports",
            FAULT,
            lambda: bridged(
                cameras=[camera(n, place="Far") for n in range(1, 6)],
                more=(switch(5, place="Far", poe_ports=0), bridge(6, place="Far", radio_end="client")),
            ),
        ),
    )

    def test_each_fault_is_told_with_reason_and_remedy(self):
        for code, severity, make in self.CASES:
            with self.subTest(code):
                found = finding_of(make(), code)
                self.assertEqual((found.severity, found.stage), (severity, "wiring"))
                self.assertTrue(found.why and found.action)
                self.assertTrue(found.subjects)

    def test_every_fix_takes_its_finding_away_and_brings_no_worse(self):
        for code, _, make in self.CASES:
            job = make()
            found = finding_of(job, code)
            if found.fix is not None:
                with self.subTest(code):
                    after = found.fix.apply(job)
                    self.assertNotIn(code, codes(after))
                    worst = max(finding.severity for finding in assess(job).findings)
                    self.assertLessEqual(max(finding.severity for finding in assess(after).findings), worst)

    def test_the_sites_themselves_are_clean(self):
        for make in (site, bridged):
            with self.subTest(make.__name__):
                faults = [f.code for f in assess(make()).findings if f.stage == "wiring" and f.severity > NOTE]
                self.assertEqual(faults, [])


class NotTold(unittest.TestCase):
    """What stands beside a fault, and is none."""

    def test_long_reach_reaches_further_and_carries_less(self):
        far = site(
            camera={"cable_m": 200, "measured_mbps": 2, "poe_class": None},
            links={"cam": Link(id="cam", a="cam-1", b="net-1", b_port=1, long_reach=True)},
            power_units=(unit(),),
        )
        self.assertNotIn("long-cable", codes(far))
        self.assertEqual(assess(far).facts.topology.wiring.capacity_mbps["cam"], 10)
        heavy = set_fields(["cam-1"], "rate", measured_mbps=11.0).apply(far)
        self.assertEqual(finding_of(heavy, "link-over").severity, FAULT)

    def test_fibre_may_be_as_long_as_it_likes(self):
        job = site(links={"out": Link(id="out", a="net-9", b="net-1", medium="fibre", length_m=2000)})
        self.assertNotIn("long-cable", codes(job))

    def test_a_surge_part_that_is_noted_ends_the_caution(self):
        job = site(camera={"outdoor": True})
        self.assertIn("outdoor-runs", codes(job))
        self.assertNotIn("outdoor-runs", codes(set_fields(["cam-1"], "note", surge_protected=True).apply(job)))

    def test_a_kind_of_the_job_is_known(self):
        from eager_lens.core.reference.device_types import DeviceType

        kind = DeviceType(id="own-1", label="Rugged switch", ports=6, poe_ports=4)
        self.assertIn("unknown-kind", codes(site(switch={"device_type": "own-1"})))
        self.assertNotIn("unknown-kind", codes(site(switch={"device_type": "own-1"}, device_types=(kind,))))

    def test_an_injector_lifts_the_class_of_a_port(self):
        job = site(camera={"poe_class": 5}, power_units=(unit("injector", poe_class=5),))
        self.assertNotIn("class-over-port", codes(job))
        self.assertNotIn("net-1", assess(job).facts.topology.supplies)


if __name__ == "__main__":
    unittest.main()
