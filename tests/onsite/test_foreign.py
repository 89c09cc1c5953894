"""The stand-ins used by clients that nobody here wrote."""

import json
import re
import subprocess
import sys

from tests.onsite.base import SMALL, InNamespaces, SiteProcess, environment, needs, small_job
from tests.support import lan

CODECS = ("h264", "h265", "mjpeg")

SEARCH = """
from wsdiscovery.discovery import ThreadedWSDiscovery
search = ThreadedWSDiscovery()
search.start()
for one in search.searchServices(timeout=2):
    print(*[scope.getValue() for scope in one.getScopes()], one.getXAddrs()[0])
search.stop()
"""


class Foreign(InNamespaces):
    @classmethod
    def job(cls):
        return small_job(4, [{"codec": codec, "name": f"View {codec}"} for codec in CODECS])

    def login(self):
        return f"installer:{self.site.note['password']}"

    def probed(self, host, path, transport="tcp"):
        entries = "stream=codec_name,width,height,avg_frame_rate"
        url = f"rtsp://{self.login()}@{host}/{path}"
        words = ("ffprobe", "-v", "error", "-rtsp_transport", transport, "-show_entries", entries, "-of", "json", url)
        status, out, errors = self.site.inside(*words)
        self.assertEqual(status, 0, errors)
        return json.loads(out)["streams"][0]

    @needs("ffprobe", "nsenter")
    def test_ffprobe_reads_each_codec_as_planned(self):
        for at, codec in enumerate(CODECS):
            transport = ("udp", "tcp", "tcp")[at]
            with self.subTest(codec, transport=transport):
                seen = self.probed(f"172.22.40.{40 + at}", "main", transport)
                self.assertEqual(seen["codec_name"], {"h265": "hevc"}.get(codec, codec))
                self.assertEqual((seen["width"], seen["height"]), (SMALL["width_px"], SMALL["height_px"]))
                frames, seconds = map(int, seen["avg_frame_rate"].split("/"))
                self.assertAlmostEqual(frames / seconds, SMALL["fps"], delta=0.1)

    @needs("ffprobe", "nsenter")
    def test_ffprobe_reads_the_substream(self):
        seen = self.probed("172.22.40.40", "sub")
        self.assertEqual((seen["width"], seen["height"]), (160, 88))

    @needs("ffmpeg", "nsenter")
    def test_ffmpeg_decodes_without_a_complaint(self):
        for at, codec in enumerate(CODECS):
            with self.subTest(codec):
                url = f"rtsp://{self.login()}@172.22.40.{40 + at}/main"
                words = (
                    "ffmpeg",
                    "-v",
                    "error",
                    "-rtsp_transport",
                    "tcp",
                    "-i",
                    url,
                    "-frames:v",
                    "25",
                    "-f",
                    "null",
                    "-",
                )
                status, _, errors = self.site.inside(*words)
                self.assertEqual(status, 0, errors)
                self.assertEqual(errors.strip(), "")

    @needs("ffprobe", "nsenter")
    def test_nobody_sees_a_stream_without_its_password(self):
        status, _, errors = self.site.inside("ffprobe", "-v", "error", "rtsp://172.22.40.41/main")
        self.assertNotEqual(status, 0)
        self.assertIn("401", errors)

    @needs("curl", "nsenter")
    def test_curl_logs_in_by_digest(self):
        url = "http://172.22.40.40/"
        status, out, _ = self.site.inside("curl", "-s", "--digest", "-u", self.login(), url)
        self.assertEqual(status, 0)
        self.assertIn("View h264", out)
        self.assertIn("QU-1", out)
        _, out, _ = self.site.inside("curl", "-s", "-o", "/dev/null", "-w", "%{http_code}", url)
        self.assertEqual(out, "401")

    @needs("curl", "nsenter")
    def test_a_device_locks_itself_after_so_many_wrong_passwords(self):
        url = "http://172.22.40.43/"
        codes = []
        for _ in range(12):
            _, out, _ = self.site.inside(
                "curl", "-s", "-o", "/dev/null", "-w", "%{http_code}", "--digest", "-u", "installer:wrong", url
            )
            codes.append(out)
        # Its recorder logs in meanwhile, rightly, which begins the count anew.
        self.assertGreaterEqual(codes.count("401"), 5)
        self.assertEqual(codes[-1], "403")
        self.assertEqual(codes, sorted(codes))

    @needs("ntpdate", "nsenter")
    def test_a_time_client_of_the_system_reads_the_time(self):
        status, out, errors = self.site.inside("ntpdate", "-q", "172.22.40.20")
        self.assertEqual(status, 0, errors)
        offset = re.search(r"([+-]\d+\.\d+) \+/-", out)
        self.assertIsNotNone(offset, out)
        self.assertLess(abs(float(offset[1])), 1.0)  # how near it comes, perf measures

    @needs("nsenter")
    def test_a_search_package_finds_the_cameras(self):
        status, out, errors = self.site.inside(sys.executable, "-c", SEARCH)
        self.assertEqual(status, 0, errors)
        for codec in CODECS:
            self.assertIn(f"/name/View {codec} ", out.replace("%20", " "))
        self.assertIn("http://172.22.40.20:80/", out)  # the recorder answers as well

    @needs("ping", "ip", "nsenter")
    def test_ping_and_ip_neigh_see_addresses_and_hardware(self):
        status, out, _ = self.site.inside("ping", "-c", "1", "-W", "2", "172.22.40.41")
        self.assertEqual(status, 0, out)
        _, out, _ = self.site.inside("ip", "neigh", "show", "172.22.40.41")
        self.assertIn("02:5b:1e:00:01:02", out)

    @needs("ip")
    def test_it_leaves_nothing_behind(self):
        before = subprocess.run(["ip", "-o", "link"], capture_output=True, text=True, check=True).stdout
        self.assertNotIn("bench0", before)
        self.assertNotIn("end1", before)

    def test_the_note_is_private_and_names_no_device_password(self):
        notes = list((self.folder / "run").rglob("*.json"))
        self.assertEqual(len(notes), 1)
        self.assertEqual(notes[0].stat().st_mode & 0o777, 0o600)


class Networks(InNamespaces):
    """Two subnets on the same switches: VLANs, with the router between them."""

    @classmethod
    def job(cls):
        second = lan("lan-2", "172.22.50.0/24", "172.22.50.1", "", "")
        return small_job(2, [{}, {"subnet": "lan-2", "address": "172.22.50.40"}], subnets=(lan(), second))

    @needs("udhcpc", "nsenter")
    def test_a_lease_client_gets_an_address_of_the_pool(self):
        words = ("udhcpc", "-i", "bench0", "-n", "-q", "-f", "-t", "3", "-s", "/bin/true")
        status, _, said = self.site.inside(*words)
        self.assertEqual(status, 0, said)
        self.assertIn("lease of 172.22.40.100 obtained from 172.22.40.1", said)

    @needs("ping", "ip", "nsenter")
    def test_the_router_joins_the_vlans_and_nothing_else_does(self):
        # Asked for on the wire of the first network, nobody there answers for the second.
        for words in (
            ("link", "set", "bench1", "down"),
            ("route", "flush", "172.22.50.0/24"),
            ("route", "add", "172.22.50.0/24", "dev", "bench0"),
        ):
            self.site.inside("ip", *words)
        status, _, _ = self.site.inside("ping", "-c", "1", "-W", "1", "172.22.50.40")
        self.assertNotEqual(status, 0)
        _, out, _ = self.site.inside("ip", "neigh", "show", "172.22.50.40")
        self.assertRegex(out, "FAILED|INCOMPLETE")
        self.site.inside("ip", "route", "replace", "172.22.50.0/24", "via", "172.22.40.1")
        status, out, _ = self.site.inside("ping", "-c", "1", "-W", "2", "172.22.50.40")
        self.assertEqual(status, 0, out)
        self.assertIn("ttl=63", out)


class Ended(InNamespaces):
    @classmethod
    def job(cls):
        return small_job(2)

    def test_it_ends_with_whoever_started_it(self):
        folder = self.folder / "other"
        folder.mkdir()
        site = SiteProcess(self.job(), folder, "--only", "Camera 1", "--for", "60")
        self.assertEqual(site.stop(), 0)
        self.assertEqual(list((folder / "run").rglob("*.json")), [])
        asked = subprocess.run(
            [sys.executable, "-m", "eager_lens", "check-site", str(site.path), "--here", "--yes"],
            capture_output=True,
            text=True,
            env=environment(folder),
            check=False,
        )
        self.assertEqual(asked.returncode, 2)
        self.assertIn("no stand-ins of this job run", asked.stderr)
