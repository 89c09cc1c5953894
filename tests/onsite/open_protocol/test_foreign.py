"""Devices and clients that nobody here wrote: their camera read by the check, the stand-ins read by their clients."""

import json
import os
import subprocess
import sys
import unittest
from functools import cache
from pathlib import Path

from eager_lens.core.assess.assessment import assess
from eager_lens.core.job.file import job_text
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.site_check.lines import SiteCode
from eager_lens.core.site_check.readings import CheckRun
from eager_lens.core.site_check.verdicts import rows_of
from tests.onsite.base import ROOT, InNamespaces, needs, small_job
from tests.support import camera, job_with, recorder

HERE = Path(__file__).resolve().parent
MAC, USER, PASSWORD = "02:5b:1e:00:01:01", "admin", "Tramway-7-up"
SEEN = {"codec": "h264", "width_px": 1280, "height_px": 720, "fps": 15, "key_frame_s": 2}


def foreign_job(**fields):
    """A job with the foreign camera in it."""
    base = {**SEEN, "make": "Virtual", "mac_address": MAC, "rate_control": "capped VBR", "cap_mbps": 4.0}
    one = camera(1, address="172.22.40.40", measured_mbps=None, **{**base, **fields})
    profile = MakeProfile(make="Virtual", user_name=USER)
    return job_with([one], [recorder(mac_address="02:5b:1e:00:00:10")], make_profiles=(profile,))


@cache
def run_on_it(password):
    """The check of a wire with that camera, with a password, without ever having seen it."""
    given = {"job": job_text(foreign_job()), "switches": {"stream_s": 4}, "passwords": {"cam-1": password}}
    enter = ["unshare", "--net"] if os.geteuid() == 0 else ["unshare", "--net", "--map-root-user"]
    there = [sys.executable, str(HERE / "check_there.py")]
    wire = [str(HERE / "two_ends.sh"), "172.22.40.40", MAC, "8080", sys.executable, str(HERE / "foreign_camera.py")]
    done = subprocess.run(
        [*enter, "sh", *wire, USER, PASSWORD, "--", *there],
        input=json.dumps(given),
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
        env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
    )
    if done.returncode:
        raise AssertionError(done.stderr[-2000:])
    return CheckRun.model_validate_json(done.stdout)


@needs("unshare", "nsenter", "ip", "ffmpeg")
class TheirCamera(unittest.TestCase):
    def read(self, password=PASSWORD):
        return run_on_it(password).of_device("cam-1")

    def codes(self, **fields):
        rows = rows_of(assess(foreign_job(**fields)), run_on_it(PASSWORD))
        return [line.code for row in rows if row.name == "Camera 1" for line in row.lines]

    def test_identity_settings_streams_and_clock_are_read(self):
        read = self.read()
        self.assertEqual((read.login, read.told.port), ("in", 8080))
        self.assertEqual((read.told.identity.serial, read.told.identity.firmware), ("PY-000001", "1.3.0"))
        main, sub = read.told.main_and_sub()
        self.assertEqual(
            (main.codec, main.width_px, main.height_px, main.fps, main.cap_mbps), ("h264", 1280, 720, 15, 4)
        )
        self.assertEqual((sub.width_px, sub.cap_mbps), (640, 0.512))
        self.assertEqual((read.main.outcome, read.main.codec, read.main.width_px), ("opened", "h264", 1280))
        self.assertLess(abs(read.clock_off_s), 5)
        self.assertIn(SiteCode.SETTINGS, self.codes(fps=25))

    def test_two_planted_differences_are_told_and_nothing_else_of_its_settings(self):
        planted = set(self.codes(width_px=1920, height_px=1080, cap_mbps=2.0))
        self.assertLessEqual({SiteCode.SETTINGS, SiteCode.CAP}, planted)
        self.assertNotIn(SiteCode.CAP, self.codes())
        self.assertNotIn(SiteCode.NOT_COMPARED, self.codes())

    def test_its_loose_answer_to_a_search_is_taken_and_told(self):
        (heard,) = (one for one in run_on_it(PASSWORD).heard if one.address == "172.22.40.40")
        self.assertIn("search", heard.by)
        self.assertEqual(heard.notes, ("it answers a search without a list",))
        self.assertEqual(heard.mac_addresses, (MAC,))

    def test_a_wrong_password_is_tried_once_and_no_stream_is_asked_for(self):
        read = self.read("wrong")
        self.assertEqual((read.login, read.main), ("refused", None))


class TheirClients(InNamespaces):
    """The stand-ins as clients read them that nobody here wrote."""

    words = ("--fault", "cap-not-set=Camera 4")

    @classmethod
    def job(cls):
        capped = {"measured_mbps": None, "rate_control": "capped VBR", "cap_mbps": 0.5}
        return small_job(4, [{}, {"codec": "h265"}, {}, capped])

    def inside(self, script, *words):
        status, out, errors = self.site.inside(sys.executable, str(HERE / script), *words)
        self.assertEqual(status, 0, errors[-2000:])
        return json.loads(out)

    @needs("nsenter", "ffprobe")
    def test_a_client_by_tokens_reads_all_devices(self):
        """By WS-Security: identity, interfaces, profiles as planned, addresses that open."""
        places = [f"172.22.40.{at}:80" for at in (1, 20, 40, 41, 43)]
        found = self.inside("zeep_client.py", "installer", self.site.note["password"], *places)["found"]
        self.assertEqual([found[place]["mac"][0] for place in places[2:4]], ["02:5b:1e:00:01:01", "02:5b:1e:00:01:02"])
        self.assertEqual(len(found["172.22.40.20:80"]["recordings"]), 4)
        for place in places[2:]:
            with self.subTest(place):
                main, sub = found[place]["profiles"]
                self.assertEqual((main["width"], main["height"], main["fps"]), (320, 176, 10))
                self.assertEqual(sub["kbps"], 100)
                url = main["uri"].replace("rtsp://", f"rtsp://installer:{self.site.note['password']}@")
                command = ["ffprobe", "-v", "error", "-rtsp_transport", "tcp", "-show_entries", "stream=width", url]
                _, out, errors = self.site.inside(*command)
                self.assertIn("width=320", out, errors)
        self.assertEqual(found["172.22.40.43:80"]["profiles"][0]["kbps"], 0)  # no maximum is set

    @needs("nsenter", "ffprobe")
    def test_a_recorder_plays_back_what_it_says_that_it_holds(self):
        read = next(one for one in self.site.check("--only", "rec-1", "--without", "stream")["run"]["read"])
        url = read["told"]["replay"].replace("rtsp://", f"rtsp://installer:{self.site.note['password']}@")
        command = ["ffprobe", "-v", "error", "-rtsp_transport", "tcp", "-show_entries", "stream=width", url]
        _, out, errors = self.site.inside(*command)
        self.assertIn("width=320", out, errors)

    @needs("nsenter")
    def test_a_client_without_schemas_reads_users_rules_and_events(self):
        found = self.inside("plain_client.py", "installer", self.site.note["password"], "172.22.40.40")["172.22.40.40"]
        self.assertEqual(found["information"]["SerialNumber"], "QU-1")
        self.assertEqual([one["username"] for one in found["users"]], ["installer"])
        self.assertEqual([one["type"] for one in found["rules"]], ["tt:CellMotionDetector"])
        self.assertIn("CellMotionDetector/Motion", found["events"])
        self.assertTrue(found["uri"].endswith("/main"))
