"""What was read beside the plan: verdicts, what is taken over, what changed."""

import unittest
from pathlib import Path

from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.finding import Severity
from eager_lens.core.errors import FileTrouble, RefusedInput
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.job.model import Registration, Retention
from eager_lens.core.options.remedies.choices import consequences
from eager_lens.core.outgoing.handover.modes import Extras, sheets_of
from eager_lens.core.outgoing.site_check_sheet import site_check_sheet
from eager_lens.core.outgoing.site_check_table import run_table
from eager_lens.core.site_check.consequences import kept_days
from eager_lens.core.site_check.lines import SiteCode
from eager_lens.core.site_check.readings import CheckRun, DeviceRead, Heard, StreamRead
from eager_lens.core.site_check.run_file import keep_run, latest_run, read_runs, runs_beside
from eager_lens.core.site_check.since import changes
from eager_lens.core.site_check.stream_texts import duration_words
from eager_lens.core.site_check.take_over import Offered, Wanted, offered, take_over
from eager_lens.core.site_check.told import IdentityTold, NotRead, ProfileTold, RecordingTold, TimeTold, Told
from eager_lens.core.site_check.verdicts import headline, rows_of
from tests.support import FolderCase, camera, job_with, recorder

MAC = "02:5b:1e:00:01:0{}"


def stream(**fields):
    base = {
        "outcome": "opened",
        "codec": "h265",
        "width_px": 1920,
        "height_px": 1080,
        "fps": 12,
        "key_frame_s": 2,
        "mean_mbps": 2.0,
        "peak_mbps": 4.0,
        "read_s": 5.0,
    }
    return StreamRead(**{**base, **fields})


def heard(at, **fields):
    base = {"address": f"172.22.40.{39 + at}", "mac_addresses": (MAC.format(at),), "by": ("ARP",)}
    return Heard(**{**base, **fields})


def read(at, **fields):
    base = {"device": f"cam-{at}", "address": f"172.22.40.{39 + at}", "login": "in", "main": stream()}
    return DeviceRead(**{**base, "clock_off_s": 0.1, "clock_by": "RTCP", **fields})


def profile(**fields):
    """A main stream as the cameras of ``job_of`` are planned."""
    base = {
        "token": "a",
        "codec": "h265",
        "width_px": 1920,
        "height_px": 1080,
        "fps": 12,
        "cap_mbps": 2.0,
        "key_frames": 24,
    }
    return ProfileTold(**{**base, **fields})


def told(*profiles, **fields):
    return Told(profiles=profiles or (profile(),), identity=IdentityTold(serial="QU-1", firmware="1.0"), **fields)


RECORDER_READ = DeviceRead(
    device="rec-1", address="172.22.40.20", login="in", clock_off_s=0.0, clock_by="open protocol"
)


def job_of(many=2, **fields):
    cameras = [camera(at, mac_address=MAC.format(at), measured_mbps=2.0) for at in range(1, many + 1)]
    return job_with(cameras, [recorder(mac_address="02:5b:1e:00:00:10")], **fields)


def capped_job():
    """The same without a measured rate: what its cameras send is held by their maximum."""
    job = job_of()
    cameras = tuple(
        one.model_copy(update={"measured_mbps": None, "rate_control": "capped VBR", "cap_mbps": 2.0})
        for one in job.cameras
    )
    return job.model_copy(update={"cameras": cameras})


RECORDER = Heard(address="172.22.40.20", mac_addresses=("02:5b:1e:00:00:10",), by=("ARP",))


def run_of(*reads, others=(), **fields):
    many = max((int(one.device.removeprefix("cam-")) for one in reads if one.device.startswith("cam")), default=2)
    base = {
        "at": "2026-03-02T12:00:00Z",
        "laptop": ("172.22.40.9/24",),
        "arp_heard": True,
        "heard": (RECORDER, *(heard(at) for at in range(1, max(2, many) + 1)), *others),
        "read": reads,
    }
    return CheckRun(**{**base, **fields})


def codes_of(run, name="Camera 1", job=None):
    rows = {row.name: row for row in rows_of(assess(job or job_of()), run)}
    return [line.code for line in rows[name].lines]


class Verdicts(unittest.TestCase):
    def test_what_is_as_planned_has_no_line(self):
        rows = rows_of(assess(job_of()), run_of(read(1), read(2), RECORDER_READ))
        self.assertEqual([(row.lines, row.state) for row in rows], [((), "as planned")] * 3)
        self.assertEqual(headline(rows, run_of(read(1))), "3 of 3 devices as planned, nothing to correct.")

    def test_what_was_not_read_is_not_called_as_planned(self):
        rows = {row.name: row for row in rows_of(assess(job_of()), run_of(read(1, main=None), RECORDER_READ))}
        one, two = rows["Camera 1"], rows["Camera 2"]
        self.assertEqual(
            (one.state, two.state, rows["Recorder 1"].state), ("not compared", "not compared", "as planned")
        )
        self.assertEqual([missing.what for missing in one.missing], ["stream settings"])
        self.assertEqual([missing.what for missing in two.missing], ["stream settings", "clock"])
        self.assertEqual(codes_of(run_of(read(1, main=None))), [SiteCode.NOT_COMPARED])
        self.assertIn("1 of 3 devices (1 compared) as planned", headline(list(rows.values()), run_of(read(1))))

    def test_why_it_was_not_compared_and_how_it_can_be(self):
        cases = {
            "note a user and a password": {"told": told().model_copy(update={"profiles": ()}), "login": "not tried"},
            "its open protocol on": {"why_not_told": "the open protocol does not answer"},
        }
        for words, fields in cases.items():
            with self.subTest(words):
                rows = {row.name: row for row in rows_of(assess(job_of()), run_of(read(1, main=None, **fields)))}
                self.assertIn(words, rows["Camera 1"].verdict)
                self.assertFalse(rows["Camera 1"].is_compared)
        nameless = job_of()
        nameless = nameless.model_copy(
            update={"cameras": tuple(one.model_copy(update={"mac_address": ""}) for one in nameless.cameras)}
        )
        rows = {row.name: row for row in rows_of(assess(nameless), run_of(read(1)))}
        self.assertIn("note its MAC address or serial", rows["Camera 1"].verdict)

    def test_settings_are_judged_as_they_are_set_where_no_stream_was_opened(self):
        as_set = {
            "as planned": (profile(), None),
            "other frame rate": (profile(fps=25, key_frames=50), SiteCode.SETTINGS),
            "other size": (profile(width_px=1280, height_px=720), SiteCode.SETTINGS),
            "absurd": (profile(width_px=99_999, height_px=99_999), SiteCode.SETTINGS),
            "a codec that media 1 has no word for": (profile(codec="h264"), None),
            "no maximum": (profile(cap_mbps=None), SiteCode.CAP),
            "a higher maximum": (profile(cap_mbps=8.0), SiteCode.CAP),
        }
        job = capped_job()
        for name, (one, code) in as_set.items():
            with self.subTest(name):
                run = run_of(read(1, main=None, told=told(one)))
                self.assertEqual(codes_of(run, job=job), [code] if code else [])

    def test_a_camera_without_its_planned_maximum_is_told_with_its_days(self):
        assessment = assess(capped_job())
        rows = {
            row.name: row for row in rows_of(assessment, run_of(read(1, main=None, told=told(profile(cap_mbps=None)))))
        }
        self.assertIn("It has no maximum bit rate, planned 2 Mb/s: with it, Recorder 1 keeps", rows["Camera 1"].verdict)
        self.assertIn("days instead of", rows["Recorder 1"].verdict)

    def test_each_figure_says_by_which_way_it_was_read(self):
        run = run_of(read(1, told=told(), clock_off_s=0.2))
        row = next(row for row in rows_of(assess(job_of()), run) if row.name == "Camera 1")
        ways = {one.what: one.way for one in row.evidence}
        self.assertEqual(ways["address"], "ARP")
        self.assertEqual(ways["main stream as sent"], "RTSP, 5 s")
        self.assertEqual(ways["main stream as set"], "open protocol, media 1")
        self.assertEqual(ways["clock"], "RTCP")

    def test_a_zone_that_is_not_the_sites_is_told(self):
        cases = {"CET-1CEST,M3.5.0,M10.5.0/3": 1, "<+0100>-1:00": 1, "GMT0BST,M3.5.0/1,M10.5.0": 0, "rubbish": 0, "": 0}
        job = job_of(time_zone="Europe/London")
        for zone, many in cases.items():
            with self.subTest(zone):
                run = run_of(read(1, told=told(time=TimeTold(zone=zone))))
                self.assertEqual(codes_of(run, job=job), [SiteCode.ZONE] * many)

    def test_another_certificate_and_old_firmware_are_told(self):
        self.assertEqual(codes_of(run_of(read(1, main=None, other_certificate="ab" * 32))), [SiteCode.CERTIFICATE])
        described = job_of(make_profiles=(MakeProfile(make="Quillmark", firmware_now="1.4"),))
        cameras = tuple(one.model_copy(update={"make": "Quillmark B4"}) for one in described.cameras)
        run = run_of(read(1, told=told()))
        self.assertEqual(codes_of(run, job=described.model_copy(update={"cameras": cameras})), [SiteCode.FIRMWARE])

    def test_a_run_compares_with_the_plan_as_it_is_now(self):
        """Days that were worked out at the time of the run compared with a plan that had been left."""
        run = run_of(read(1, main=stream(fps=24, mean_mbps=4.0)), read(2))
        before = job_of()
        larger = before.recorders[0].model_copy(update={"bays": 8, "drives": before.recorders[0].drives * 4})
        after = before.model_copy(update={"recorders": (larger,)})
        for job in (before, after):
            planned = assess(job).recorder("rec-1").promised_days
            self.assertAlmostEqual(kept_days(assess(job), run)[0].planned, planned)
        self.assertFalse(hasattr(run, "days"))

    def test_each_reading_has_its_verdict(self):
        cases = {
            SiteCode.REFUSED: {"login": "refused", "main": None},
            SiteCode.LOCKED: {"login": "locked", "main": None},
            SiteCode.SET_UP: {"login": "set-up wanted", "main": None},
            SiteCode.PLAIN_TEXT: {"login": "plain text", "main": None},
            SiteCode.NO_PAGE: {"login": "no answer", "main": None},
            SiteCode.DEFAULT_PASSWORD: {"default_works": True},
            SiteCode.NO_STREAM: {"main": stream(outcome="refused", words="user or password is wrong")},
            SiteCode.STREAM_STOPS: {"main": stream(outcome="stopped", words="no pictures came")},
            SiteCode.SETTINGS: {"main": stream(fps=25)},
            SiteCode.RATE: {"main": stream(mean_mbps=4.0)},
            SiteCode.SUBSTREAM: {"substream": stream(mean_mbps=4.0)},
            SiteCode.CLOCK: {"clock_off_s": -3600.2, "clock_by": "RTCP"},
            SiteCode.ODD: {"trouble": "Its page does not end."},
            SiteCode.NO_LOGIN: {"login": "open"},
        }
        for code, fields in cases.items():
            with self.subTest(code):
                self.assertEqual(codes_of(run_of(read(1, **fields))), [code])

    def test_a_label_that_was_copied_is_told(self):
        job = job_of()
        cameras = [one.model_copy(update={"serial": f"QU-{at}"}) for at, one in enumerate(job.cameras)]
        job = job.model_copy(update={"cameras": tuple(cameras)})
        other = heard(1, mac_addresses=("02:5b:1e:00:09:09",), serial="QU-0")
        self.assertEqual(codes_of(run_of(heard=(RECORDER, other, heard(2))), job=job), [SiteCode.CONTRADICTED])

    def test_a_flood_of_strangers_is_one_row(self):
        """One device that claims an address after the other: 20,000 rows would hold the window at each refresh."""
        flood = tuple(
            Heard(address=f"10.0.{at >> 8}.{at & 255}", mac_addresses=(f"02:00:00:00:{at >> 8:02x}:{at & 255:02x}",))
            for at in range(3000)
        )
        rows = rows_of(assess(job_of()), run_of(read(1), read(2), others=flood))
        self.assertEqual(len(rows), 3 + 300 + 1)
        self.assertEqual(rows[0].name, "2700 more unknown devices")
        self.assertIn("claiming one address after the other", rows[0].verdict)

    def test_one_refusal_is_told_once(self):
        refused = stream(outcome="refused", words="user or password is wrong")
        self.assertEqual(codes_of(run_of(read(1, login="refused", main=refused))), [SiteCode.REFUSED])
        silent = stream(outcome="no answer", words="nothing listens there")
        self.assertEqual(codes_of(run_of(read(1, main=silent))), [SiteCode.NO_STREAM])

    def test_what_a_device_says_of_its_hardware_counts_only_where_nothing_shows_it(self):
        boast = heard(1, told_mac="06:00:00:00:00:01")
        self.assertEqual(codes_of(run_of(heard=(RECORDER, boast, heard(2)))), [SiteCode.NOT_COMPARED])
        alone = Heard(address="172.22.40.77", told_mac=MAC.format(1), by=("search",))
        self.assertIn(SiteCode.ELSEWHERE, codes_of(run_of(heard=(RECORDER, alone, heard(2)), arp_heard=False)))

    def test_a_stream_above_its_planned_maximum_is_told_as_such(self):
        run = run_of(read(1, main=stream(mean_mbps=2.4)))
        rows = {row.name: row for row in rows_of(assess(job_of()), run)}
        (line,) = rows["Camera 1"].lines
        self.assertEqual(line.code, SiteCode.RATE)
        self.assertIn("more than the planned maximum of 2 Mb/s", line.words)

    def test_what_lies_within_bounds_is_silent(self):
        quiet = (
            {"main": stream(fps=12.4)},
            {"main": stream(key_frame_s=2.3)},
            {"main": stream(mean_mbps=1.7)},
            {"clock_off_s": 4.9, "clock_by": "HTTP"},
            {"substream": stream(mean_mbps=0.9)},
        )
        for fields in quiet:
            with self.subTest(fields):
                self.assertEqual(codes_of(run_of(read(1, **fields))), [])

    def test_two_on_one_address_and_no_more_about_either(self):
        twins = heard(1, mac_addresses=(MAC.format(1), MAC.format(2)))
        run = run_of(heard=(RECORDER, twins))
        self.assertEqual(codes_of(run), [SiteCode.SHARED])
        self.assertEqual(codes_of(run, "Camera 2"), [SiteCode.SHARED])
        rows = rows_of(assess(job_of()), run)
        self.assertFalse(any(row.is_compared for row in rows if SiteCode.SHARED in {line.code for line in row.lines}))

    def test_without_arp_two_names_in_a_search_are_two_devices(self):
        two = Heard(address="172.22.40.40", endpoints=("urn:uuid:a", "urn:uuid:b"), by=("search",))
        run = run_of(heard=(RECORDER, two, heard(2)), arp_heard=False)
        self.assertIn(SiteCode.SHARED, {line.code for row in rows_of(assess(job_of()), run) for line in row.lines})

    def test_strangers_elsewhere_and_silent_devices(self):
        moved = heard(1, address="172.22.40.77")
        stranger = Heard(address="172.22.40.90", mac_addresses=("06:00:00:00:00:01",), by=("TCP",))
        rows = rows_of(assess(job_of()), run_of(heard=(RECORDER, moved, stranger)))
        found = {row.name: [(line.code, line.severity) for line in row.lines] for row in rows}
        self.assertEqual(found["Camera 1"], [(SiteCode.ELSEWHERE, Severity.FAULT)])
        self.assertEqual(found["Camera 2"], [(SiteCode.NOT_HEARD, Severity.FAULT)])
        self.assertEqual(found["Stranger"], [(SiteCode.STRANGER, Severity.NOTE)])
        self.assertEqual([row.severity for row in rows][:2], [Severity.FAULT, Severity.FAULT])

    def test_a_device_in_another_subnet_says_how_to_reach_it(self):
        rows = rows_of(assess(job_of()), run_of(heard=(RECORDER, heard(1, address="172.22.41.40"), heard(2))))
        words = next(row.verdict for row in rows if row.name == "Camera 1")
        self.assertIn("the laptop needs 172.22.41.254/24 as well", words)

    def test_what_was_not_read_stands_in_the_row_with_why(self):
        run = run_of(read(1, told=told(not_read=(NotRead(what="its users", why="the user a may not read it"),))))
        row = next(row for row in rows_of(assess(job_of()), run) if row.name == "Camera 1")
        self.assertIn(("its users", "not read: the user a may not read it"), [one[:2] for one in row.evidence])

    def test_a_state_that_was_not_told_is_no_fault_and_not_said_to_run(self):
        running = RecordingTold(token="1", address="172.22.40.40", state="Active")
        row = self.recorder_row(running, RecordingTold(token="2", address="172.22.40.41"))
        self.assertEqual(row.lines, ())
        self.assertIn("1 of 2 recordings running, 1 not told", row.found)

    def test_another_in_its_place(self):
        other = heard(1, mac_addresses=("06:00:00:00:00:01",))
        self.assertEqual(codes_of(run_of(heard=(RECORDER, other, heard(2)))), [SiteCode.IN_ITS_PLACE])

    def test_a_subnet_that_was_not_looked_at_is_no_fault(self):
        run = run_of(heard=(), laptop=("10.9.9.9/24",))
        self.assertEqual(codes_of(run), [SiteCode.NOT_REACHED])

    def test_while_it_goes_on_nothing_is_missing_yet(self):
        self.assertEqual(codes_of(run_of(heard=(RECORDER,), stopped=True)), [])

    def recorder_row(self, *recordings, **fields):
        told = Told(recordings=recordings)
        one = RECORDER_READ.model_copy(update={"told": told, **fields})
        return next(row for row in rows_of(assess(job_of()), run_of(one)) if row.name == "Recorder 1")

    def test_recordings_and_event_port_of_a_recorder(self):
        running = RecordingTold(token="1", address="172.22.40.40", state="Active")
        failed = RecordingTold(token="2", address="172.22.40.41", state="Error")
        words = self.recorder_row(running, failed, events_open=False).verdict
        self.assertIn("1 camera without a recording: Camera 2 (its job is in error)", words)
        self.assertIn("Nothing accepts events", words)
        self.assertIn(
            "2 cameras without a recording: Camera 1 (no recording from its address)", self.recorder_row().verdict
        )

    def test_the_oldest_pictures_of_a_recorder(self):
        values = {"state": "Active", "newest": "2026-03-02T11:59:00Z"}
        one = RecordingTold(token="1", address="172.22.40.40", oldest="2026-01-20T12:00:00Z", **values)
        two = RecordingTold(token="2", address="172.22.40.41", oldest="2026-02-20T12:00:00Z", **values)
        row = self.recorder_row(one, two)
        self.assertEqual(row.state, "as planned")
        self.assertIn("10 days back (Camera 2, the least of 2 cameras)", [each.value for each in row.evidence])
        job = job_of(retention=Retention(least_days=31))
        run = run_of(RECORDER_READ.model_copy(update={"told": Told(recordings=(one, two))}))
        after = take_over(assess(job), run, "WA").apply(job)
        self.assertEqual(
            [(each.recorder, each.oldest_days, each.used_tb) for each in after.fill_readings], [("rec-1", 10.0, None)]
        )
        self.assertEqual([check.check for check in after.checks], [])  # younger than asked for: it may still be filling
        older = two.model_copy(update={"oldest": "2026-01-20T12:00:00Z"})
        run = run_of(RECORDER_READ.model_copy(update={"told": Told(recordings=(one, older))}))
        after = take_over(assess(job), run, "WA").apply(job)
        self.assertEqual(
            [(check.check, check.outcome, check.measured) for check in after.checks], [("days", "passed", 41.0)]
        )

    def test_whole_hours_point_at_the_zone(self):
        words = {row.name: row.verdict for row in rows_of(assess(job_of()), run_of(read(1, clock_off_s=7200.0)))}
        self.assertIn("2.0 h ahead: whole hours", words["Camera 1"])
        self.assertNotIn("whole hours", rows_of(assess(job_of()), run_of(read(1, clock_off_s=400.0)))[0].verdict)

    def test_lengths_of_time_read_well(self):
        cases = {3.24: "3.2 s", 59: "59 s", 600: "10 min", 7300: "2.0 h", 864_000: "10 days"}
        self.assertEqual([duration_words(one) for one in cases], list(cases.values()))

    def test_a_second_interface_of_a_recorder_is_no_stranger(self):
        inner = recorder(mac_address="02:5b:1e:00:00:10", camera_interface_address="172.22.50.1")
        job = job_with([camera(1, mac_address=MAC.format(1))], [inner])
        second = Heard(address="172.22.50.1", mac_addresses=("0a:5b:1e:00:00:10",))
        names = {row.name for row in rows_of(assess(job), run_of(read(1), others=(second,))) if row.device is None}
        self.assertEqual(names, {"Stranger"})  # camera 2 of the helper, which this job does not have


class Consequences(unittest.TestCase):
    def test_days_follow_from_what_is_sent(self):
        assessment = assess(job_of())
        before = assessment.recorder("rec-1").promised_days
        run = run_of(read(1, main=stream(fps=24, mean_mbps=4.0)), read(2))
        days = kept_days(assessment, run)
        whole, alone = days
        self.assertEqual((whole.camera, alone.camera), ("", "cam-1"))
        self.assertEqual(whole.planned, before)
        # Constant rates, always recorded: 4 Mb/s are stored now, 6 then.
        self.assertAlmostEqual(whole.found, before * 4 / 6, delta=0.02 * before)
        words = {row.name: row.verdict for row in rows_of(assessment, run, days)}
        self.assertIn("24 fps", words["Camera 1"])
        self.assertIn("days instead of", words["Camera 1"])
        self.assertIn("days instead of", words["Recorder 1"])

    def test_what_is_as_planned_changes_no_days(self):
        self.assertEqual(kept_days(assess(job_of()), run_of(read(1), read(2))), ())


class TakenOver(FolderCase):
    def test_one_step_takes_addresses_rates_and_proofs(self):
        job = job_of()
        plan = job.model_copy(
            update={"cameras": (job.cameras[0].model_copy(update={"mac_address": ""}), job.cameras[1])}
        )
        run = run_of(
            read(1, main=stream(fps=24, mean_mbps=3.0), clock_off_s=1.0, clock_by="RTCP"),
            others=(),
            heard=(RECORDER, heard(1, serial="QU-9", firmware="2.0"), heard(2, address="172.22.40.60")),
        )
        after = take_over(assess(plan), run, "WA").apply(plan)
        one, two = after.cameras
        self.assertEqual((one.mac_address, one.serial, one.firmware), (MAC.format(1), "QU-9", "2.0"))
        self.assertEqual(two.address, "172.22.40.60")
        checks = {check.check: check for check in after.checks}
        self.assertEqual((checks["stream"].outcome, checks["clock"].outcome), ("failed", "passed"))
        self.assertEqual((checks["clock"].by, checks["clock"].at), ("WA", "2026-03-02T12:00"))
        with self.assertRaisesRegex(RefusedInput, "nothing new"):
            take_over(assess(after), run, "WA")

    def test_a_short_reading_is_a_sample_beside_the_plan(self):
        """5 s by day stretched over the night turned 32.6 promised days into 13.6."""
        job = job_of()
        run = run_of(read(1, main=stream(fps=24, mean_mbps=3.0)), read(2, main=stream(mean_mbps=9.0)))
        before = assess(job)
        self.assertEqual(offered(before, run), Offered(0, 4, 1, 2))
        after = take_over(before, run).apply(job)
        self.assertEqual([camera.measured_mbps for camera in after.cameras], [2.0, 2.0])
        self.assertEqual([camera.fps for camera in after.cameras], [12, 12])
        self.assertEqual(assess(after).whole.promised_days, before.whole.promised_days)

    def test_the_plan_follows_the_device_where_that_is_wanted(self):
        job = job_of()
        run = run_of(read(1, main=stream(fps=24, mean_mbps=3.0)), read(2))
        follows = take_over(assess(job), run, "WA", Wanted(settings=True)).apply(job)
        self.assertEqual((follows.cameras[0].fps, follows.cameras[0].measured_mbps), (24, 2.0))
        both = take_over(assess(job), run, "WA", Wanted(settings=True, rates=True)).apply(job)
        self.assertEqual((both.cameras[0].fps, both.cameras[0].measured_mbps), (24, 3.0))
        self.assertIsNone(both.cameras[0].measured_at)
        rates = take_over(assess(job), run, "WA", Wanted(rates=True)).apply(job).cameras[0]
        self.assertEqual((rates.fps, rates.measured_mbps, rates.measured_at.fps), (12, 3.0, 24))
        self.assertEqual(rates.measured_when, "day")
        self.assertIn("site check 2026-03-02 12:00, 5 s", rates.measured_from)
        lines = consequences(assess(job), assess(both))
        self.assertTrue(any("promises" in line for line in lines), lines)

    def test_twins_and_strangers_are_not_taken_over(self):
        twins = heard(1, mac_addresses=(MAC.format(1), "06:00:00:00:00:01"))
        with self.assertRaisesRegex(RefusedInput, "nothing new"):
            take_over(assess(job_of()), run_of(heard=(RECORDER, twins)))

    def test_a_table_has_figures_as_numbers_and_harmless_cells(self):
        run = run_of(read(1, clock_off_s=-7.5), read(2))
        table = run_table(rows_of(assess(job_of()), run), run)
        self.assertEqual({len(row) for row in table.rows}, {len(table.headings)})
        by_name = {row[0]: row for row in table.rows}
        self.assertEqual(by_name["Camera 1"][6:11], (2.0, 4.0, 12, 5.0, -7.5))
        self.assertIn("clock: -7.5 s (RTCP)", by_name["Camera 1"][11])


class Since(FolderCase):
    def test_what_came_went_and_moved(self):
        earlier = run_of(read(1, main=stream(fps=24)), read(2, clock_off_s=0.0))
        later = run_of(
            read(1),
            read(2, clock_off_s=30.0, main=stream(mean_mbps=3.9)),
            others=(Heard(address="172.22.40.90", mac_addresses=("06:00:00:00:00:01",)),),
        )
        found = {(one.name, one.better) for one in changes(assess(job_of()), earlier, later)}
        words = " ".join(one.words for one in changes(assess(job_of()), earlier, later))
        self.assertIn(("Camera 1", True), found)
        self.assertIn(("Camera 2", False), found)
        for part in ("Its clock gained 30 s", "It sends 3.9 Mb/s, 2 before", "New here: 172.22.40.90"):
            self.assertIn(part, words)
        self.assertEqual(changes(assess(job_of()), later, later), [])

    def test_runs_are_kept_beside_the_job_and_damage_is_told(self):
        path = runs_beside(self.folder / "depot.lens.json")
        self.assertEqual(path.name, "depot.site-checks.jsonl")
        first, second = run_of(read(1)), run_of(read(2), at="2026-03-03T12:00:00Z")
        keep_run(path, first)
        with path.open("a") as file:
            file.write('{"at": 3}\nnot json\n')
        keep_run(path, second)
        runs, problems = read_runs(path)
        self.assertEqual(runs, [first, second])
        self.assertEqual(len(problems), 2)
        self.assertIn("Line 2", problems[0])
        self.assertEqual(latest_run(path), second)
        with self.assertRaises(FileTrouble):
            keep_run(Path("/nowhere/depot.site-checks.jsonl"), first)
        with self.assertRaises(RefusedInput):
            latest_run(self.folder / "none.jsonl")

    def test_what_is_kept_can_be_read_again_however_large(self):
        """50 runs of 2,000 cameras are more than a file may have: older ones make room."""
        path = runs_beside(self.folder / "depot.lens.json")
        line = '{"at": "2026-03-02T12:00:00Z", "not_reached": ["' + "x" * 390 + '"]}'
        path.write_text((line + " " * 3_000_000 + "\n") * 30)
        keep_run(path, run_of(read(1)))
        runs, problems = read_runs(path)
        self.assertEqual((len(runs), problems), (21, []))
        self.assertEqual(runs[-1], run_of(read(1)))
        self.assertLess(path.stat().st_size, 60 * 2**20)

    def test_only_so_many_runs_are_kept(self):
        path = runs_beside(self.folder / "depot.lens.json")
        path.write_text("".join(f'{{"at": "2026-03-02T12:00:{at % 60:02d}Z"}}\n' for at in range(80)))
        keep_run(path, run_of(read(1)))
        runs, problems = read_runs(path)
        self.assertEqual((len(runs), problems), (50, []))
        self.assertEqual(runs[0].at, "2026-03-02T12:00:31Z")


class Registered(unittest.TestCase):
    def test_a_camera_on_two_recorders_is_asked_of_both(self):
        places = (Registration(recorder="rec-1", channel=1), Registration(recorder="rec-2", channel=5))
        job = job_with([camera(1, registered=places, mac_address=MAC.format(1))], [recorder(), recorder(2)])
        device_read = DeviceRead(device="rec-2", address="172.22.40.21", login="in", told=Told(recordings=()))
        both = (RECORDER, Heard(address="172.22.40.21"), heard(1))
        words = {row.name: row.verdict for row in rows_of(assess(job), run_of(device_read, heard=both))}
        self.assertIn("Camera 1 (no recording from its address)", words["Recorder 2"])


class OnPaper(unittest.TestCase):
    def test_the_sheet_has_every_row_and_says_whether_it_was_a_rehearsal(self):
        run = run_of(read(1, main=stream(fps=24)), read(2), here=True)
        sheet = site_check_sheet(assess(job_of()), run)
        (table,) = sheet.blocks
        self.assertIn("stand-ins on a computer, not the real site", sheet.intro)
        self.assertAlmostEqual(sum(column.share for column in table.columns), 1)
        self.assertEqual(len(table.rows), 3)
        self.assertTrue(table.rows[0][2].startswith("Warning: It runs at"))
        whole = sheets_of("as built", assess(job_of()), "2 March 2026", Extras((sheet,)))
        self.assertEqual([one.title for one in whole.sheets][-3:], ["Site check", "Cautions", "Handed over"])
