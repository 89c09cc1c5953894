"""Notes of sites that run here: a stale one never leads to the network of this computer."""

import json
import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.file import job_text
from eager_lens.core.site_check.readings import Switches
from eager_lens.onsite import here
from eager_lens.onsite.check.start import checking_site, intended
from eager_lens.onsite.here import SiteHere, noted, runs, sites_here
from eager_lens.onsite.namespaces import network_of
from tests.onsite.base import ROOT, environment, small_job


def note(pid, network, mode="namespaces", job=""):
    return SiteHere(pid, mode, job, "secret", {}, (), 1.0, network)


class Stale(unittest.TestCase):
    def setUp(self):
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name)

    def test_a_number_that_was_given_again_is_not_the_site(self):
        own = network_of("self")
        for stale in (note(os.getpid(), own + 1), note(os.getpid(), own), note(2**22 - 1, own)):
            with self.subTest(stale.pid):
                self.assertFalse(runs(stale))
        # On loopback the stand-ins are in this very network, at loopback addresses.
        self.assertTrue(runs(note(os.getpid(), own, "loopback")))
        self.assertFalse(runs(note(os.getpid(), own + 1, "loopback")))

    def test_notes_of_those_that_ended_are_taken_away(self):
        with mock.patch.object(here, "notes_folder", return_value=self.folder):
            with noted(note(os.getpid(), network_of("self") + 1), self.folder):
                self.assertEqual(sites_here(), [])
            with noted(note(os.getpid(), network_of("self"), "loopback"), self.folder):
                self.assertEqual(len(sites_here()), 1)

    def test_a_check_of_a_site_that_is_gone_sends_nothing(self):
        stale = note(os.getpid(), network_of("self"))
        with self.assertRaisesRegex(RefusedInput, "has ended"):
            intended(small_job(1), Switches(), stale)
        with self.assertRaisesRegex(RefusedInput, "nothing was sent"):
            for _ in checking_site(small_job(1), Switches(), {}, stale):
                pass

    def test_the_command_line_refuses_it_too(self):
        job = self.folder / "job.lens.json"
        job.write_text(job_text(small_job(1)), "utf-8")
        around = environment(self.folder)
        folder = Path(around["XDG_RUNTIME_DIR"]) / "eager-lens" / "sites"
        folder.mkdir(parents=True)
        stale = note(os.getpid(), network_of("self"), job=str(job.resolve()))
        (folder / f"{stale.pid}.json").write_text(json.dumps(stale._asdict()))
        command = [sys.executable, "-m", "eager_lens", "check-site", str(job), "--here", "--yes"]
        done = subprocess.run(command, env=around, cwd=ROOT, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 2)
        self.assertIn("no stand-ins of this job run", done.stderr)
