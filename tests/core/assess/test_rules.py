"""Finding rules: each tells its fault, keeps quiet without it, and its fix puts it right."""

import math
import unittest
from pathlib import Path

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.finding import Severity, names_listed
from eager_lens.core.assess.rules import KINDS
from eager_lens.core.assess.rules.sizing import LEAST_SLIP_MBPS, STEEP_DEG, UNLIKELY_HIGH, UNLIKELY_LOW
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import with_parts
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.job.model import (
    Check,
    Link,
    NetworkDevice,
    PowerUnit,
    RadioPlan,
    Registration,
    Retention,
    Schedule,
    ScheduleException,
    changed,
)
from eager_lens.core.planning.addressing import plan_all
from eager_lens.core.present.stages import verdict_of
from eager_lens.core.recording.week import Span
from eager_lens.core.values.motion_rule import CrossingLine, MotionRule, Zone
from tests.support import camera, codes, finding_of, job_with, lan, recorder, switch, week_of

QUIET = {"assumed-rates", "no-redundancy", "uncapped", "days-open"}
"""Notes that stand on nearly every job."""


def on(recorder_id, channel):
    return (Registration(recorder=recorder_id, channel=channel),)


def wired(*links, cameras=None, feed=None, up=True, **switch_fields):
    """Two powered cameras on a switch that a recorder hangs on; ``links`` are added, ``feed`` stands for the first."""
    cameras = cameras or [camera(n, poe_class=3, power_w=9) for n in (1, 2)]
    fixed = [feed or Link(id="link-1", a="cam-1", b="net-1", b_port=1)]
    fixed += [Link(id=f"link-{n}", a=f"cam-{n}", b="net-1", b_port=n) for n in range(2, len(cameras) + 1)]
    fixed.append(Link(id="link-rec", a="rec-1", a_port=1, b="net-1", b_port=10))
    if up:
        fixed.append(Link(id="link-up", a="net-2", a_port=1, b="net-1", b_port=9))
    return job_with(cameras, network=(switch(**switch_fields), switch(2)), links=(*fixed, *links))


CAMERA_LAN = lan("lan-2", "10.44.8.0/24", "", "", "")


def two_sided(camera_fields=(), second=CAMERA_LAN, **side):
    """A camera on a recorder's own ports, the recorder with a side for it."""
    fields = {
        "camera_interface_subnet": "lan-2",
        "camera_interface_address": "10.44.8.1",
        "attachment": "recorder PoE ports",
        **side,
    }
    one = camera(1, **{"subnet": "lan-2", "address": "10.44.8.40", **dict(camera_fields)})
    return job_with([one], recorders=[recorder(**fields)], subnets=(lan(), second))


def moving(camera_fields, **recorder_fields):
    """A camera that records on motion."""
    return job_with(
        [camera(1, **camera_fields)], recorders=[recorder(**recorder_fields)], schedules=(week_of("motion"),)
    )


def close(**fields):
    """A camera that identifies whoever is 3 m away."""
    return camera(1, **{"purpose": "identify", "target_m": 3, "focal_mm": 6, "mount_height_m": 2.5, **fields})


GONE = Check(device="cam-9", check="picture", outcome="passed")


def with_gap(until_h):
    """A schedule of round the clock, but for Wednesday from noon to an hour."""
    plan = week_of().plan.model_copy(
        update={"wed": (Span(0, 720, "continuous"), Span(until_h * 60, 1440, "continuous"))}
    )
    return Schedule(id="week-1", name="Round the clock", plan=plan)


def an_exception(**fields):
    """Three days from a Monday, on which nothing is recorded."""
    base = {"id": "ex-1", "name": "Fair", "first": "2026-06-01", "last": "2026-06-03", "schedule": "week-1"}
    return ScheduleException(**{**base, **fields})


def with_uplink(**fields):
    """A wired job whose link between its switches is so."""
    job = wired()
    return with_parts(job, links=tuple(changed(one, **fields) if one.id == "link-up" else one for one in job.links))


def with_radio(**fields):
    """Two bridges with a planned path."""
    ends = [switch(n, role="bridge", radio_end=end) for n, end in ((8, "access point"), (9, "client"))]
    path = Link(id="link-air", a="net-8", b="net-9", medium="radio", length_m=300, radio=RadioPlan(**fields))
    job = wired()
    return with_parts(job, network=(*job.network, *ends), links=(*job.links, path))


def with_ups(*feeds):
    """A wired job in which a UPS carries some of it."""
    unit = PowerUnit(id="unit-1", name="Battery", kind="ups", budget_w=500, battery_wh=900, feeds=feeds)
    return with_parts(wired(), power_units=(unit,))


def watched_from_outside(**subnet):
    """A job with an internet line through which somebody looks."""
    router = switch(
        3, role="router", subnet="lan-1", address="172.22.40.1", upload_mbps=20, viewed_streams=1, wan_port=9
    )
    return job_with([camera(1)], subnets=(lan(**subnet),), network=(router,))


def with_clocks(drift_ppm, gateway="", **router):
    """A recorder and its camera of a make whose clocks run off; with fields, a router to the internet beside them."""
    return job_with(
        [camera(1, make="Quillmark B4", registered=on("rec-1", 1))],
        recorders=[recorder(make="Quillmark R2")],
        subnets=(lan(gateway=gateway),),
        network=(switch(1, role="router", **router),) if router else (),
        make_profiles=(MakeProfile(make="Quillmark", drift_ppm=drift_ppm),),
    )


def with_server(text, gateway="172.22.40.1", **router):
    """A site with clocks that run off, a router, and a time server that was named."""
    fields = {"role": "router", "address": "172.22.40.1", "subnet": "lan-1", **router}
    job = with_clocks(60, gateway)
    cameras = tuple(changed(one, address="172.22.40.40", subnet="lan-1") for one in job.cameras)
    recorders = tuple(changed(one, address="172.22.40.20", subnet="lan-1") for one in job.recorders)
    return changed(job, network=(switch(1, **fields),), cameras=cameras, recorders=recorders, time_server=text)


def with_firmware(has):
    """A camera of a described make."""
    profile = MakeProfile(make="Quillmark", firmware_now="4.10")
    return job_with([camera(1, make="Quillmark B4", firmware=has)], make_profiles=(profile,))


class Clocks(unittest.TestCase):
    def test_only_the_recorder_is_named_its_camera_follows_it(self):
        found = finding_of(with_clocks(60), "clock-drifts")
        self.assertEqual(found.subjects, ("rec-1",))
        self.assertIn("156 s off after 30 days", found.title)  # 60e-6 x 86,400 x 30
        self.assertIn("every 11 days", found.action)

    def test_a_time_server_outside_or_a_good_clock_is_enough(self):
        served = with_clocks(60, "172.22.40.1", upload_mbps=10, viewed_streams=0)
        self.assertNotIn("clock-drifts", codes(served))
        self.assertIn("clock-drifts", codes(with_clocks(60, "172.22.40.1")), "a gateway, and nothing behind it")
        self.assertNotIn("clock-drifts", codes(with_clocks(20)))

    def test_a_time_server_of_the_site(self):
        """One that the job has, in the recorder's subnet, is enough, also for clocks that run off."""
        right = with_server("172.22.40.1")
        self.assertFalse({"time-server", "clock-drifts"} & set(codes(right)))
        found = finding_of(with_server("172.22.40.99"), "time-server")
        self.assertIn("172.22.40.99: no device", found.title)
        found = finding_of(with_server("172.22.40.40"), "time-server")
        self.assertIn("Camera 1, which is not a time server", found.title)

    def test_a_time_server_outside_wants_a_line_and_a_gateway(self):
        self.assertIn("no internet line", finding_of(with_server("time.example"), "time-server").title)
        online = {"upload_mbps": 10, "viewed_streams": 0}
        found = finding_of(with_server("203.0.113.7", gateway="", **online), "time-server")
        self.assertIn("no gateway to the time server 203.0.113.7", found.title)
        mended = found.fix.apply(with_server("203.0.113.7", gateway="", **online))
        self.assertEqual(mended.subnets[0].gateway, "172.22.40.1")
        self.assertNotIn("time-server", codes(mended))
        self.assertIn("no time server within reach", finding_of(with_server("", gateway=""), "time-server").title)
        self.assertNotIn("time-server", codes(with_server("")))


class Clean(unittest.TestCase):
    def test_a_recorder_with_two_sides_in_order_has_none(self):
        self.assertEqual(set(codes(two_sided())) - QUIET, set())
        right = {"event_target": "10.44.8.1"}
        self.assertEqual(set(codes(two_sided(right))) - QUIET, set())

    def test_a_job_without_fault_has_no_finding_but_notes(self):
        self.assertEqual(set(codes(job_with([camera(1), camera(2)]))) - QUIET, set())

    def test_a_wired_job_without_fault_has_none_either(self):
        self.assertEqual(set(codes(wired())) - QUIET - {"no-address"}, set())

    def test_an_empty_job_has_none(self):
        self.assertEqual(codes(job_with(recorders=(), schedules=(), subnets=())), [])


class EachRule(unittest.TestCase):
    """A table of jobs, each with one thing wrong, and the finding that must tell it."""

    CASES = (
        (
            "days-short",
            Severity.FAULT,
            lambda: job_with([camera(1)], [recorder(bays=8)], retention=Retention(least_days=5000)),
        ),
        ("uncapped", Severity.NOTE, lambda: job_with([camera(1)])),
        (
            "over-port",
            Severity.FAULT,
            lambda: job_with(
                [camera(1, codec="mjpeg", width_px=3840, height_px=2160, fps=30, quality="high", scene="yard-lit")]
            ),
        ),
        (
            "untuned-motion",
            Severity.WARNING,
            lambda: job_with([camera(1, scene="yard-dark", events_from="")], schedules=(week_of("motion"),)),
        ),
        (
            "days-doubtful",
            Severity.WARNING,
            lambda: job_with([camera(1, measured_mbps=4)], retention=Retention(least_days=215)),
        ),
        ("drive-too-large", Severity.FAULT, lambda: job_with([camera(1)], [recorder(largest_drive_tb=8)])),
        ("days-open", Severity.NOTE, lambda: job_with([camera(1)])),
        ("days-over", Severity.FAULT, lambda: job_with([camera(1)], retention=Retention(least_days=1, most_days=2))),
        ("no-space", Severity.FAULT, lambda: job_with([camera(1)], recorders=[recorder(drives=0)])),
        ("bays", Severity.FAULT, lambda: job_with([camera(1)], recorders=[recorder(drives=3, bays=2)])),
        ("no-redundancy", Severity.NOTE, lambda: job_with([camera(1)], recorders=[recorder(drives=2)])),
        (
            "erased-early",
            Severity.FAULT,
            lambda: job_with([camera(1)], [recorder(erase_after_days=20)], retention=Retention(least_days=31)),
        ),
        (
            "rate-implausible",
            Severity.WARNING,
            lambda: job_with([camera(1, measured_mbps=0.01, rate_control="VBR", cap_mbps=None)]),
        ),
        ("purpose-far", Severity.NOTE, lambda: job_with([camera(1, purpose="identify")])),
        ("purpose-frames", Severity.WARNING, lambda: job_with([close(fps=4)])),
        ("purpose-coarse", Severity.WARNING, lambda: job_with([close(quality="low")])),
        ("purpose-steep", Severity.WARNING, lambda: job_with([close(mount_height_m=4)])),
        ("target-blind", Severity.WARNING, lambda: job_with([close(purpose="detect", focal_mm=12, target_m=2)])),
        ("thin-cable", Severity.WARNING, lambda: job_with([camera(1, awg=28, cable_m=12)])),
        ("cca-cable", Severity.WARNING, lambda: with_uplink(cable_material="cca")),
        ("outdoor-runs", Severity.WARNING, lambda: with_uplink(outdoor=True)),
        ("eirp-high", Severity.WARNING, lambda: with_radio(tx_dbm=20, tx_gain_dbi=13)),
        ("ups-no-recorder", Severity.WARNING, lambda: with_ups("net-1")),
        ("ups-partly", Severity.WARNING, lambda: with_ups("rec-1")),
        ("no-gateway", Severity.WARNING, lambda: watched_from_outside(gateway="")),
        ("firmware-old", Severity.WARNING, lambda: with_firmware("4.0")),
        ("clock-drifts", Severity.WARNING, lambda: with_clocks(60)),
        ("time-server", Severity.WARNING, lambda: with_server("pool.tramway.example")),
        ("rule-unused", Severity.NOTE, lambda: job_with([camera(1, motion_rule=MotionRule())])),
        (
            "no-alarm-post-recording",
            Severity.WARNING,
            lambda: job_with([camera(1, input_post_recording_s=0)], schedules=(week_of("alarm input"),)),
        ),
        ("no-summer-time", Severity.NOTE, lambda: job_with([camera(1)], schedules=(week_of(start_h=7, end_h=19),))),
        ("rule-blind", Severity.FAULT, lambda: job_with([camera(1, motion_rule=MotionRule(sensitivity=0))])),
        (
            "schedule-slip",
            Severity.NOTE,
            lambda: job_with([camera(1)], schedules=(with_gap(13),)),
        ),
        (
            "exception-idle",
            Severity.NOTE,
            lambda: job_with([camera(1)], exceptions=(an_exception(days=("sun",)),)),
        ),
        (
            "removed-device-test",
            Severity.NOTE,
            lambda: job_with([camera(1)], checks=(GONE,)),
        ),
        ("costly-codec", Severity.WARNING, lambda: job_with([camera(1, codec="mjpeg")])),
        ("purpose-missed", Severity.FAULT, lambda: job_with([camera(1, purpose="identify", target_m=20)])),
        ("no-cap", Severity.WARNING, lambda: job_with([camera(1, rate_control="capped VBR")])),
        (
            "cap-not-held",
            Severity.WARNING,
            lambda: job_with([camera(1, rate_control="CBR", cap_mbps=4, measured_mbps=5.5)]),
        ),
        ("low-cap", Severity.WARNING, lambda: job_with([camera(1, rate_control="CBR", cap_mbps=0.05)])),
        ("drives-worn", Severity.WARNING, lambda: job_with([camera(1, measured_mbps=100)])),
        (
            "rebuild-risky",
            Severity.NOTE,
            lambda: job_with([camera(1)], recorders=[recorder(drives=6, bays=6, drive_tb=16, raid_level="raid5")]),
        ),
        ("card-worn", Severity.WARNING, lambda: job_with([camera(1, card_gb=64, card_written_tb=1)])),
        ("unknown-scene", Severity.WARNING, lambda: job_with([camera(1, scene="moon")])),
        ("assumed-rates", Severity.NOTE, lambda: job_with([camera(1)])),
        ("not-registered", Severity.TODO, lambda: job_with([camera(1, registered=())])),
        (
            "channels",
            Severity.FAULT,
            lambda: job_with([camera(n) for n in range(1, 4)], recorders=[recorder(channels=2)]),
        ),
        ("no-such-channel", Severity.FAULT, lambda: job_with([camera(1, registered=on("rec-1", 99))])),
        ("channel-twice", Severity.FAULT, lambda: job_with([camera(1), camera(2, registered=on("rec-1", 1))])),
        ("unknown-recorder", Severity.FAULT, lambda: job_with([camera(1, registered=on("rec-9", 1))])),
        ("incoming-over", Severity.FAULT, lambda: job_with([camera(1, measured_mbps=170)])),
        ("incoming-near", Severity.WARNING, lambda: job_with([camera(1, measured_mbps=140)])),
        ("picture-too-large", Severity.FAULT, lambda: job_with([camera(1, width_px=4000, height_px=3000)])),
        ("codec", Severity.FAULT, lambda: job_with([camera(1, codec="h265")], recorders=[recorder(codecs=("h264",))])),
        (
            "two-recorders",
            Severity.NOTE,
            lambda: job_with(
                [camera(1, registered=on("rec-1", 1) + on("rec-2", 1))], recorders=[recorder(1), recorder(2)]
            ),
        ),
        (
            "same-recorder-twice",
            Severity.FAULT,
            lambda: job_with([camera(1, registered=on("rec-1", 1) + on("rec-1", 2))]),
        ),
        ("duplicate-address", Severity.FAULT, lambda: job_with([camera(1), camera(2, address="172.22.40.40")])),
        ("outside-subnet", Severity.FAULT, lambda: job_with([camera(1, address="172.22.41.9")])),
        ("reserved-address", Severity.FAULT, lambda: job_with([camera(1, address="172.22.40.0")])),
        ("reserved-address", Severity.FAULT, lambda: job_with([camera(1, address="172.22.40.255")])),
        ("reserved-address", Severity.FAULT, lambda: job_with([camera(1, address="172.22.40.1")])),
        ("in-pool", Severity.FAULT, lambda: job_with([camera(1, address="172.22.40.150")])),
        (
            "same-mac-address",
            Severity.FAULT,
            lambda: job_with([camera(n, mac_address="02:00:00:00:00:01") for n in (1, 2)]),
        ),
        ("reservation-unknown", Severity.WARNING, lambda: job_with([camera(1, address_assignment="DHCP reservation")])),
        (
            "reservations",
            Severity.NOTE,
            lambda: job_with([camera(1, address_assignment="DHCP reservation", mac_address="02:00:00:00:00:01")]),
        ),
        ("no-camera-subnet", Severity.WARNING, lambda: two_sided(camera_interface_address="")),
        (
            "interfaces-share-subnet",
            Severity.FAULT,
            lambda: two_sided(
                {"subnet": "lan-1", "address": "172.22.40.40"},
                camera_interface_subnet="lan-1",
                camera_interface_address="172.22.40.2",
            ),
        ),
        ("camera-interface-outside", Severity.FAULT, lambda: two_sided(camera_interface_address="10.44.9.1")),
        ("camera-interface-taken", Severity.FAULT, lambda: two_sided({"address": "10.44.8.1"})),
        ("event-target", Severity.FAULT, lambda: two_sided({"event_target": "172.22.40.20"})),
        ("event-target", Severity.FAULT, lambda: job_with([camera(1, event_target="172.22.40.77")])),
        ("chain-broken", Severity.FAULT, lambda: moving({"motion_rule_on": False})),
        ("chain-broken", Severity.FAULT, lambda: moving({"event_tcp_port": 7443})),
        ("chain-broken", Severity.FAULT, lambda: moving({}, takes_events=False)),
        ("not-given", Severity.WARNING, lambda: job_with([camera(1, address_assignment="by the recorder")])),
        ("no-address", Severity.TODO, lambda: job_with([camera(1, address="")])),
        ("no-subnet", Severity.WARNING, lambda: job_with([camera(1, subnet="lan-9")])),
        (
            "apart-from-recorder",
            Severity.WARNING,
            lambda: job_with(
                [camera(1, subnet="lan-2", address="10.44.8.40")],
                subnets=(lan(), lan("lan-2", "10.44.8.0/24", "", "", "")),
            ),
        ),
        (
            "subnets-overlap",
            Severity.FAULT,
            lambda: job_with(subnets=(lan(), lan("lan-2", "172.22.40.0/25", "", "", ""))),
        ),
        ("same-serial", Severity.WARNING, lambda: job_with([camera(1, serial="K7"), camera(2, serial="K7")])),
        ("group-mac-address", Severity.FAULT, lambda: job_with([camera(1, mac_address="03:4c:00:00:00:1f")])),
        (
            "public-range",
            Severity.WARNING,
            lambda: job_with(subnets=(lan(cidr="193.10.4.0/24", gateway="", first="", last=""),)),
        ),
        (
            "gateway-no-router",
            Severity.WARNING,
            lambda: job_with(network=(switch(1, role="router", address="172.22.40.2", subnet="lan-1"),)),
        ),
        ("gateway-outside", Severity.FAULT, lambda: job_with(subnets=(lan(gateway="10.0.0.1"),))),
        ("pool-half", Severity.WARNING, lambda: job_with(subnets=(lan(last=""),))),
        ("pool-outside", Severity.FAULT, lambda: job_with(subnets=(lan(last="172.22.41.9"),))),
        (
            "pool-reversed",
            Severity.FAULT,
            lambda: job_with(subnets=(lan(first="172.22.40.199", last="172.22.40.100"),)),
        ),
        ("no-schedule", Severity.TODO, lambda: job_with([camera(1, schedule="")])),
        ("empty-schedule", Severity.FAULT, lambda: job_with([camera(1)], schedules=(week_of("off"),))),
        (
            "records-nothing",
            Severity.FAULT,
            lambda: job_with([camera(1, events_per_h=0)], schedules=(week_of("motion"),)),
        ),
        (
            "unused-schedule",
            Severity.NOTE,
            lambda: job_with([camera(1)], schedules=(week_of(), week_of(id="week-2", name="Two"))),
        ),
        (
            "pre-recording-memory",
            Severity.FAULT,
            lambda: moving({"measured_mbps": 8, "pre_recording_s": 60}, pre_recording_memory_mb=40),
        ),
        (
            "pre-recording-memory",
            Severity.FAULT,
            lambda: job_with(
                [camera(1, measured_mbps=8, pre_recording_s=5, input_pre_recording_s=60)],
                recorders=[recorder(pre_recording_memory_mb=40)],
                schedules=(week_of("motion or alarm"),),
            ),
        ),
        (
            "no-post-recording",
            Severity.WARNING,
            lambda: job_with([camera(1, post_recording_s=0)], schedules=(week_of("motion"),)),
        ),
        (
            "nearly-always",
            Severity.WARNING,
            lambda: job_with([camera(1, events_per_h=300)], schedules=(week_of("motion"),)),
        ),
        (
            "pre-recording-short",
            Severity.WARNING,
            lambda: job_with([camera(1, key_frame_s=10)], schedules=(week_of("motion"),)),
        ),
        ("same-name", Severity.WARNING, lambda: job_with([camera(1), camera(2, name="camera 1")])),
        ("no-place", Severity.NOTE, lambda: job_with([camera(1, place=" ")])),
        ("long-cable", Severity.WARNING, lambda: job_with([camera(1, cable_m=95)])),
        ("long-cable", Severity.FAULT, lambda: job_with([camera(1, cable_m=101)])),
        (
            "weak-run",
            Severity.FAULT,
            lambda: job_with([camera(1, cable_m=96, poe_class=4, power_w=24, cable_material="cca", outdoor=True)]),
        ),
        ("draw-over-class", Severity.FAULT, lambda: job_with([camera(1, poe_class=2, power_w=7)])),
        ("cca-cable", Severity.WARNING, lambda: job_with([camera(1, cable_material="cca", cable_m=10)])),
        ("outdoor-runs", Severity.WARNING, lambda: job_with([camera(1, outdoor=True)])),
        ("link-without-device", Severity.FAULT, lambda: wired(Link(id="link-9", a="cam-9", b="net-1"))),
        ("link-without-device", Severity.FAULT, lambda: wired(Link(id="link-9", a="net-1", b="net-1"))),
        ("port-twice", Severity.FAULT, lambda: wired(Link(id="link-9", a="net-2", b="net-1", b_port=2))),
        ("no-such-port", Severity.FAULT, lambda: wired(Link(id="link-9", a="net-2", b="net-1", b_port=11))),
        ("too-few-ports", Severity.FAULT, lambda: wired(ports=2)),
        (
            "loop",
            Severity.FAULT,
            lambda: wired(Link(id="link-9", a="net-2", b="net-1")),
        ),
        ("cut-off", Severity.FAULT, lambda: wired(feed=Link(id="link-1", a="cam-1", b="net-2"), up=False)),
        ("not-plugged", Severity.TODO, lambda: wired(feed=Link(id="link-1", a="net-2", b="net-1"))),
        ("too-few-poe-ports", Severity.FAULT, lambda: wired(poe_ports=1)),
        ("power-over", Severity.FAULT, lambda: wired(budget_w=17)),
        ("power-near", Severity.WARNING, lambda: wired(budget_w=22)),
        ("allocated-over", Severity.WARNING, lambda: wired(budget_w=30)),
        (
            "link-over",
            Severity.FAULT,
            lambda: wired(feed=Link(id="link-1", a="cam-1", b="net-1", capacity_mbps=0.1)),
        ),
        ("link-near", Severity.WARNING, lambda: wired(cameras=[camera(n, measured_mbps=90) for n in (1, 2)])),
        ("unknown-kind", Severity.NOTE, lambda: wired(device_type="toaster")),
        (
            "failed-check",
            Severity.FAULT,
            lambda: job_with([camera(1)], checks=(Check(device="cam-1", check="night", outcome="failed"),)),
        ),
        ("cover-gaps", Severity.NOTE, lambda: job_with([camera(1)], customer="")),
    )

    def test_every_kind_of_finding_is_tried_here_or_beside_its_figures(self):
        elsewhere = "\n".join(path.read_text("utf-8") for path in Path(__file__).parents[1].rglob("test_*.py"))
        for kind in KINDS:
            if kind.code not in {code for code, _, _ in self.CASES}:
                with self.subTest(kind.code):
                    self.assertIn(f'"{kind.code}"', elsewhere, "a case in CASES is wanted")

    def test_each_fault_is_told_with_reason_and_remedy(self):
        for code, severity, make in self.CASES:
            with self.subTest(code):
                finding = finding_of(make(), code)
                self.assertEqual(finding.severity, severity)
                self.assertTrue(finding.title and finding.why and finding.action)
                self.assertLessEqual(len(finding.title), 140)

    def test_every_fix_takes_its_finding_away_and_brings_no_worse(self):
        fixed = set()
        for code, severity, make in self.CASES:
            job = make()
            finding = finding_of(job, code)
            if finding.fix is None:
                continue
            with self.subTest(code):
                after = finding.fix.apply(job)
                left = [f for f in assess(after).findings if f.code == code and f.subjects == finding.subjects]
                self.assertEqual(left, [])
                new = {f.code for f in assess(after).findings} - {f.code for f in assess(job).findings}
                # An entry that leads nowhere is taken out; that the camera then has no recorder is the next finding.
                new -= {"not-registered"} if code == "unknown-recorder" else set()
                self.assertFalse({f.code for f in assess(after).findings if f.code in new and f.severity >= severity})
                fixed.add(code)
        self.assertTrue({"duplicate-address", "in-pool", "outside-subnet", "not-registered", "channel-twice"} <= fixed)

    def test_worst_first(self):
        severities = [finding.severity for finding in assess(self.CASES[0][2]()).findings]
        self.assertEqual(severities, sorted(severities, reverse=True))


class Wording(unittest.TestCase):
    def test_a_figure_right_on_the_line_is_met(self):
        """10 TB less 5 % at 1 Mb/s: 9500 / 10.8 days, asked to the last digit."""
        job = job_with([camera(1, measured_mbps=1)], retention=Retention(least_days=9500 / 10.8 * (1 + 1e-10)))
        self.assertNotIn("days-short", codes(job))

    def test_drives_in_free_bays_are_offered_only_if_they_are_enough(self):
        short = job_with(
            [camera(1, measured_mbps=4)],
            recorders=[recorder(drives=1, drive_tb=4, bays=4)],
            retention=Retention(least_days=200),
        )
        free = changed(short, cameras=(camera(1, scene="yard-dark", fps=25),), retention=Retention(least_days=75))
        finding = finding_of(free, "days-doubtful")
        self.assertRegex(finding.fix.label, r"^Cap at [\d.]+ Mb/s on Camera 1$")
        self.assertNotIn("days-doubtful", codes(finding.fix.apply(free)))
        finding = finding_of(short, "days-short")
        self.assertEqual(finding.fix.label, "Add 2 more 4 TB drives to Recorder 1")
        self.assertNotIn("days-short", codes(finding.fix.apply(short)))
        hopeless = job_with([camera(1, measured_mbps=4)], retention=Retention(least_days=30_000))
        self.assertIsNone(finding_of(hopeless, "days-short").fix)

    def test_power_right_on_the_budget_and_a_fifth_spare_are_enough(self):
        """Two cameras of 9 W: 18 W is within a budget of 18 W; 22.5 W leaves exactly 20 %."""
        self.assertNotIn("power-over", codes(wired(budget_w=18)))
        self.assertIn("power-near", codes(wired(budget_w=18)))
        self.assertNotIn("power-near", codes(wired(budget_w=22.5)))
        self.assertNotIn("allocated-over", codes(wired(budget_w=30.8)))

    def test_a_fix_moves_only_the_one_it_names(self):
        cameras = [camera(1), camera(2, address="172.22.40.40"), camera(3, address="172.22.40.150")]
        job = job_with(cameras)
        after = finding_of(job, "duplicate-address").fix.apply(job)
        self.assertEqual([c.address for c in after.cameras][0::2], ["172.22.40.40", "172.22.40.150"])
        self.assertNotEqual(after.cameras[1].address, "172.22.40.40")

    def test_many_of_one_kind_are_told_as_one(self):
        job = job_with([camera(n, address=f"172.22.41.{n}") for n in range(1, 41)])
        found = [finding for finding in assess(job).findings if finding.code == "outside-subnet"]
        self.assertEqual(len(found), 1)
        self.assertEqual(len(found[0].subjects), 40)
        self.assertNotIn("outside-subnet", codes(found[0].fix.apply(job)))

    def test_a_subnet_without_room_or_gone_altogether_breaks_no_assessment(self):
        full = lan("lan-2", "10.44.8.0/30", "", "", "")
        cameras = [camera(n, subnet="lan-2", address="") for n in range(1, 9)]
        crowded = job_with(cameras, subnets=(lan(), full))
        finding = finding_of(crowded, "no-address")
        with self.assertRaises(RefusedInput) as caught:
            finding.fix.apply(crowded)
        self.assertIn("do not fit", str(caught.exception))
        orphaned = job_with([camera(1, subnet="", address="")], recorders=[recorder(subnet="lan-9")])
        planned = finding_of(orphaned, "no-address").fix.apply(orphaned)
        self.assertEqual(planned.cameras[0].subnet, "lan-1")

    def test_the_router_may_have_the_gateways_address(self):
        router = switch(role="router", subnet="lan-1", address="172.22.40.1")
        self.assertNotIn("reserved-address", codes(job_with([camera(1)], network=(router,))))
        self.assertIn(
            "reserved-address", codes(job_with([camera(1)], network=(router.model_copy(update={"role": "switch"}),)))
        )

    def test_names_are_listed_shortly(self):
        self.assertEqual(names_listed(["A"]), "A")
        self.assertEqual(names_listed(["A", "B", "C"]), "A, B and C")
        self.assertEqual(names_listed([*"ABCDE"]), "A, B, C and 2 more")

    def test_a_reserved_address_may_lie_in_the_pool(self):
        inside = {"address": "172.22.40.150", "mac_address": "02:00:00:00:00:01"}
        self.assertIn("in-pool", codes(job_with([camera(1, **inside, address_assignment="static from a lease")])))
        self.assertNotIn("in-pool", codes(job_with([camera(1, **inside, address_assignment="DHCP reservation")])))

    def test_many_cameras_that_miss_their_purpose_are_one_finding(self):
        few = job_with([camera(n, purpose="identify", target_m=20) for n in range(1, 6)])
        many = job_with([camera(n, purpose="identify", target_m=20) for n in range(1, 8)])
        self.assertEqual(codes(few).count("purpose-missed"), 5)
        self.assertEqual(codes(many).count("purpose-missed"), 1)
        self.assertEqual(len(finding_of(many, "purpose-missed").subjects), 7)

    def test_the_demo_holds_the_faults_that_its_page_lists(self):
        from pathlib import Path

        from tests.support import demo_job

        text = (Path(__file__).parents[3] / "docs" / "demo-job.md").read_text("utf-8")
        found = {finding.code for finding in assess(demo_job()).findings}
        listed = {line.split("`")[1] for line in text.splitlines() if line.startswith("| `")}
        self.assertEqual(listed, found)


class Apart(unittest.TestCase):
    """Networks that are apart on purpose."""

    def test_a_routed_recorder_is_said_and_not_doubted(self):
        far = lan("lan-2", "10.44.8.0/24", "10.44.8.1", "", "")
        router = NetworkDevice(id="net-9", name="Router", role="router", subnet="lan-1", address="172.22.40.1")
        one = camera(1, subnet="lan-2", address="10.44.8.40")
        routed = job_with([one], subnets=(lan(), far), network=(router,))
        self.assertEqual(finding_of(routed, "apart-from-recorder").severity, Severity.NOTE)
        for name, job in {
            "no gateway there": with_parts(routed, subnets=(lan(), changed(far, gateway=""))),
            "no router": with_parts(routed, network=()),
        }.items():
            with self.subTest(name):
                self.assertEqual(finding_of(job, "apart-from-recorder").severity, Severity.WARNING)

    def sites(self, **second):
        """Two recorders, each with the same private range for its cameras."""
        inner = {"attachment": "recorder PoE ports", "camera_interface_address": "10.44.8.1"}
        recorders = [
            recorder(1, camera_interface_subnet="lan-2", **inner),
            recorder(2, camera_interface_subnet="lan-3", **inner, address="172.22.40.21"),
        ]
        cameras = [
            camera(1, subnet="lan-2", address="10.44.8.40"),
            camera(2, subnet="lan-3", address="10.44.8.40", registered=on("rec-2", 1)),
        ]
        subnets = (lan(), CAMERA_LAN, changed(CAMERA_LAN, id="lan-3", name="Other cameras"))
        return job_with(cameras, recorders=recorders, subnets=subnets, **second)

    def test_two_recorders_may_have_one_private_range_each(self):
        self.assertFalse({"subnets-overlap", "duplicate-address"} & set(codes(self.sites())))

    def test_behind_one_recorder_an_address_is_still_given_once(self):
        job = self.sites()
        twin = with_parts(
            job, cameras=(job.cameras[0], changed(job.cameras[1], registered=on("rec-1", 2), subnet="lan-2"))
        )
        self.assertIn("duplicate-address", codes(twin))


class Rings(unittest.TestCase):
    def ring(self, trees, aggregated=(False, False)):
        """Two links between two switches."""
        network = tuple(switch(n, spanning_tree=tree) for n, tree in zip((1, 2), trees, strict=True))
        links = [
            Link(id=f"link-{n}", a="net-1", a_port=8 + n, b="net-2", b_port=8 + n, aggregated=one)
            for n, one in enumerate(aggregated, 1)
        ]
        return job_with([camera(1)], network=network, links=tuple(links))

    def test_a_ring_is_in_order_where_all_on_it_run_spanning_tree(self):
        self.assertNotIn("loop", codes(self.ring((True, True))))
        self.assertIn("loop", codes(self.ring((True, False))))

    def test_links_are_one_where_both_are_put_together(self):
        self.assertNotIn("loop", codes(self.ring((False, False), (True, True))))
        self.assertIn("loop", codes(self.ring((False, False), (True, False))))

    def test_cameras_on_cards_alone_are_a_note(self):
        found = finding_of(job_with([camera(1, registered=(), card_gb=256)]), "card-only")
        self.assertEqual(found.severity, Severity.NOTE)
        self.assertNotIn("not-registered", codes(job_with([camera(1, registered=(), card_gb=256)])))


class MeantSo(unittest.TestCase):
    """What is right on some sites can be said, and is silent then."""

    def test_an_unmanaged_device_wants_no_address(self):
        job = job_with([camera(1)], network=(switch(1, address_assignment="unmanaged"),))
        self.assertNotIn("no-address", codes(job))
        self.assertEqual(verdict_of("addresses", assess(job)).sentence, "All 2 devices have an address")
        self.assertEqual(plan_all(job).apply(job).network[0].address, "")
        managed = with_parts(job, network=(switch(1),))
        self.assertIn("no-address", codes(managed))

    def test_92_metres_of_heavier_copper_with_short_leads_are_within_the_standard(self):
        self.assertNotIn("long-cable", codes(job_with([camera(1, cable_m=92, awg=23)])))
        self.assertIn("long-cable", codes(job_with([camera(1, cable_m=97, awg=23)])))
        self.assertIn("long-cable", codes(job_with([camera(1, cable_m=92, awg=24)])))


class NotYet(unittest.TestCase):
    """What nobody has got to yet is a to-do; from the first check on site it is as bad as it is."""

    def test_what_is_missing_is_a_to_do_until_the_first_check_is_made(self):
        begun = {"checks": (Check(device="cam-2", check="picture", outcome="passed"),)}
        for code, then, fields in (
            ("not-registered", Severity.FAULT, {"registered": ()}),
            ("no-address", Severity.WARNING, {"address": ""}),
            ("no-schedule", Severity.FAULT, {"schedule": ""}),
        ):
            job = job_with([camera(1, **fields), camera(2)])
            with self.subTest(code):
                self.assertIs(finding_of(job, code).severity, Severity.TODO)
                self.assertIs(finding_of(with_parts(job, **begun), code).severity, then)
        self.assertEqual(Severity.TODO.word, "to do")

    def test_a_list_of_names_is_of_all_that_are_counted(self):
        job = job_with([camera(n) for n in range(1, 16)], network=(switch(1), switch(2)))
        job = with_parts(job, links=(Link(id="link-1", a="rec-1", b="net-1", b_port=1),))
        finding = finding_of(job, "not-plugged")
        self.assertIn("15 cameras", finding.title)
        self.assertIn("and 12 more", finding.why)


class Labels(unittest.TestCase):
    def test_one_serial_number_of_two_makers_is_no_mistake(self):
        two = [camera(1, serial="K7", make="Quillmark A"), camera(2, serial="K7", make="Ospine B")]
        self.assertNotIn("same-serial", codes(job_with(two)))

    def test_private_and_shared_ranges_are_nobodys(self):
        for cidr in ("10.1.0.0/24", "172.31.4.0/24", "192.168.9.0/24", "100.64.8.0/24"):
            job = job_with(subnets=(lan(cidr=cidr, gateway="", first="", last=""),))
            with self.subTest(cidr):
                self.assertNotIn("public-range", codes(job))

    def test_the_gateway_becomes_the_router_by_one_step(self):
        job = job_with(network=(switch(1, role="router", address="172.22.40.2", subnet="lan-1"),))
        after = finding_of(job, "gateway-no-router").fix.apply(job)
        self.assertEqual(after.subnets[0].gateway, "172.22.40.2")
        self.assertNotIn("gateway-no-router", codes(after))


def zone(left, right, leave_out=False):
    """The whole height of the picture, from a share of its width to another."""
    corners = ((left, 0.0), (right, 0.0), (right, 1.0), (left, 1.0))
    return Zone(corners=corners, leave_out=leave_out)


class Slips(unittest.TestCase):
    def test_a_rule_that_nobody_can_meet_is_told_with_its_reason(self):
        over = CrossingLine(begins=(0.8, 0.2), ends=(0.8, 0.8))
        for rule, words in (
            (MotionRule(zones=(zone(0.0, 1.0, leave_out=True),)), "exclusion zones cover the picture"),
            (MotionRule(zones=(zone(0.4, 0.418),)), "zones are too small"),
            (MotionRule(zones=(zone(0.4, 0.425),)), ""),
            (MotionRule(zones=(zone(0.0, 0.5),), line=over), "line lies outside"),
            (MotionRule(zones=(zone(0.0, 0.9),), line=over), ""),
            (MotionRule(zones=(zone(0.0, 0.9, leave_out=True),)), ""),
            (MotionRule(line=over), ""),
        ):
            job = job_with([camera(1, motion_rule=rule)])
            with self.subTest(words=words):
                if not words:
                    self.assertNotIn("rule-blind", codes(job))
                    continue
                found = finding_of(job, "rule-blind")
                self.assertIn(words, found.why)
                self.assertNotIn("rule-blind", codes(found.fix.apply(job)))
        off = camera(1, motion_rule=MotionRule(sensitivity=0), motion_rule_on=False)
        self.assertNotIn("rule-blind", codes(job_with([off])))

    def test_gaps_of_an_hour_and_single_empty_days_may_be_slips(self):
        self.assertIn(
            "12:00 to 13:00", finding_of(job_with([camera(1)], schedules=(with_gap(13),)), "schedule-slip").why
        )
        self.assertNotIn("schedule-slip", codes(job_with([camera(1)], schedules=(with_gap(14),))))
        closed = week_of().plan.model_copy(update={"sun": ()})
        one = job_with([camera(1)], schedules=(Schedule(id="week-1", name="Six days", plan=closed),))
        self.assertIn("Sunday", finding_of(one, "schedule-slip").why)
        weekend = closed.model_copy(update={"sat": ()})
        two = job_with([camera(1)], schedules=(Schedule(id="week-1", name="Five days", plan=weekend),))
        self.assertNotIn("schedule-slip", codes(two))

    def test_an_exception_that_changes_nothing_says_why(self):
        other = week_of("motion", id="week-2", name="On motion")
        for exception, words in (
            (an_exception(days=("sun",), schedule="week-2"), "none of its dates"),
            (an_exception(instead_of="week-2", schedule="week-1"), "no camera has the schedule"),
            (an_exception(), "same hours"),
            (an_exception(days=("tue",), schedule="week-2"), ""),
        ):
            job = job_with([camera(1)], schedules=(week_of(), other), exceptions=(exception,))
            with self.subTest(words=words):
                if words:
                    self.assertIn(words, finding_of(job, "exception-idle").why.lower())
                else:
                    self.assertNotIn("exception-idle", codes(job))
        # Over another exception, the usual hours change something.
        both = (an_exception(schedule="week-2"), an_exception(id="ex-2", name="Open day"))
        self.assertNotIn("exception-idle", codes(job_with([camera(1)], schedules=(week_of(), other), exceptions=both)))

    def test_rates_that_no_encoder_sends(self):
        for mbps, expected in ((0.02, True), (0.3, False), (19, False), (2200, True)):
            one = camera(1, measured_mbps=mbps, rate_control="VBR", cap_mbps=None)
            with self.subTest(mbps=mbps):
                self.assertEqual("rate-implausible" in codes(job_with([one])), expected)
        asked = assess(job_with([camera(1, rate_control="VBR")])).camera("cam-1").asked_mbps
        for mbps, expected in (
            (0.95 * UNLIKELY_LOW * asked, True),
            (1.05 * UNLIKELY_LOW * asked, False),
            (max(LEAST_SLIP_MBPS, UNLIKELY_HIGH * asked) * 1.05, True),
            (max(LEAST_SLIP_MBPS, UNLIKELY_HIGH * asked) * 0.95, False),
        ):
            one = camera(1, measured_mbps=mbps, rate_control="VBR", cap_mbps=None)
            self.assertEqual("rate-implausible" in codes(job_with([one])), expected, mbps)
        capped = finding_of(job_with([camera(1, rate_control="capped VBR", cap_mbps=2000)]), "rate-implausible")
        self.assertIn("2\u2009000 Mb/s is not plausible", capped.title)
        self.assertIn(
            "kb/s entered as Mb/s",
            finding_of(job_with([camera(1, rate_control="CBR", cap_mbps=2000)]), "rate-implausible").why,
        )


class ForItsPurpose(unittest.TestCase):
    def test_each_limit_from_both_sides(self):
        steep_m = 1.6 + 3 * math.tan(math.radians(STEEP_DEG))
        for code, fields, expected in (
            ("purpose-frames", {"fps": 7.5}, True),
            ("purpose-frames", {"fps": 8}, False),
            ("purpose-coarse", {"quality": "medium"}, False),
            ("purpose-coarse", {"quality": "low", "purpose": "detect"}, False),
            ("purpose-steep", {"mount_height_m": steep_m + 0.05}, True),
            ("purpose-steep", {"mount_height_m": steep_m - 0.05}, False),
            ("purpose-steep", {"mount_height_m": 9, "purpose": "observe"}, False),
            ("purpose-far", {}, False),
        ):
            with self.subTest(code=code, **fields):
                self.assertEqual(code in codes(job_with([close(**fields)])), expected)
        for code, fields in (("purpose-frames", {"fps": 4}), ("purpose-coarse", {"quality": "low"})):
            job = job_with([close(**fields)])
            self.assertNotIn(code, codes(finding_of(job, code).fix.apply(job)))


if __name__ == "__main__":
    unittest.main()
