"""`commission` on a site out of the box in network namespaces: all of one address, killed and gone on with, read by others."""

import json
import signal
import sys
import time
import unittest
from pathlib import Path

from eager_lens.core.commission.ledger import ledger_beside, runs_in
from tests.onsite.base import InNamespaces, needs
from tests.onsite.commission.in_memory import boxed_job

CLIENT = Path(__file__).resolve().parents[1] / "open_protocol" / "zeep_client.py"
BOXED = ("--out-of-box", "--start", "0.5")


class Boxed(InNamespaces):
    words = BOXED
    many = 4

    @classmethod
    def job(cls):
        return boxed_job(cls.many)

    def commission(self, *words):
        """Run it to its end: status, what it printed as JSON, errors."""
        running = self.site.command("commission", "--json", *words)
        out, errors = running.communicate(timeout=200)
        self.assertIn(running.returncode, (0, 1), errors)
        return running.returncode, json.loads(out), errors

    def runs(self):
        return runs_in(ledger_beside(self.site.path))


class OnOneAddress(Boxed):
    def test_all_is_set_and_the_check_agrees(self):
        status, dry, _ = self.commission("--dry-run")
        self.assertEqual((status, dry["run"]), (1, None))
        self.assertEqual([one["shared"] for one in dry["plan"]["devices"]], [False, *[True] * self.many])
        self.assertEqual(self.runs(), [])
        status, done, _ = self.commission("--yes")
        self.assertEqual(status, 0, done["run"])
        self.assertNotIn(self.site.note["password"], ledger_beside(self.site.path).read_text("utf-8"))
        status, again, _ = self.commission("--yes")
        self.assertEqual((status, [one["acts"] for one in again["plan"]["devices"]]), (0, [[]] * (self.many + 1)))
        checked = self.site.check("--seconds", "3", "--only", *(f"cam-{at + 1}" for at in range(self.many)))
        rows = {row["name"]: row for row in checked["rows"] if row["device"]}
        for at in range(self.many):
            lines = [line["code"] for line in rows[f"Camera {at + 1}"]["lines"] if line["severity"] != "note"]
            self.assertEqual((lines, rows[f"Camera {at + 1}"]["compared"]), ([], True))

    def test_a_question_comes_first(self):
        """By its name it runs before the one that leaves nothing to be set."""
        running = self.site.command("commission")
        _, errors = running.communicate(timeout=120)
        self.assertEqual(running.returncode, 2)
        self.assertIn("nothing was sent", errors)
        self.assertEqual(self.runs(), [])


class Killed(Boxed):
    many = 1

    def test_killed_in_the_middle_it_goes_on_to_the_end(self):
        path = ledger_beside(self.site.path)
        running = self.site.command("commission", "--json", "--yes")
        while running.poll() is None and not (path.exists() and b'"act":"address eth0"' in path.read_bytes()):
            time.sleep(0.002)
        running.send_signal(signal.SIGKILL)
        running.communicate()
        cut = self.runs()[-1]
        self.assertFalse(cut.is_over)
        self.assertGreater(len(cut.lines), 2)
        status, done, errors = self.commission("--yes")
        self.assertEqual(status, 0, done["run"])
        self.assertIn("when it was cut off; it may be at", errors)
        self.assertNotIn("first user", [line["act"] for line in done["run"]["lines"] if line["device"] == "rec-1"])


@needs("ffprobe")
class ReadByOthers(Boxed):
    many = 1

    def test_their_client_reads_what_was_set(self):
        self.assertEqual(self.commission("--yes")[0], 0)
        script = [sys.executable, str(CLIENT)]
        status, out, errors = self.site.inside(*script, "installer", self.site.note["password"], "172.22.40.40:80")
        self.assertEqual(status, 0, errors)
        profile = json.loads(out)["found"]["172.22.40.40:80"]["profiles"][0]
        self.assertEqual((profile["width"], profile["height"], profile["fps"]), (320, 176, 10))
        login = f"installer:{self.site.note['password']}@172.22.40.40"
        shown = "stream=codec_name,width,height,r_frame_rate"
        status, out, errors = self.site.inside(
            "ffprobe",
            "-v",
            "error",
            "-rtsp_transport",
            "tcp",
            "-show_entries",
            shown,
            "-of",
            "json",
            f"rtsp://{login}/main",
        )
        self.assertEqual(status, 0, errors)
        stream = json.loads(out)["streams"][0]
        self.assertEqual((stream["codec_name"], stream["width"], stream["height"]), ("h264", 320, 176))
        self.assertEqual(stream["r_frame_rate"], "10/1")


if __name__ == "__main__":
    unittest.main()
