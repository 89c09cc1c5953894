"""`practice` and `site --practice`: the lessons on the command line, and their faults hidden on a network."""

import json
import subprocess
import sys
import unittest

from eager_lens.core.job.file import read_job
from eager_lens.core.practice.drill import drill_of
from tests.cli.test_commands import run
from tests.onsite.base import environment
from tests.support import FolderCase

ON_NETWORK = next(f"subnet-2-{seed}" for seed in range(1, 40) if drill_of(f"subnet-2-{seed}").faults == ("twin",))


class PracticeCommand(FolderCase):
    def test_topics_are_listed(self):
        status, output, _ = run("practice", "--list")
        self.assertEqual(status, 0)
        for words in ("twins", "night", "bridge", "night-2-4711"):
            self.assertIn(words, output)

    def test_a_code_tells_the_complaint_and_for_the_trainer_the_fault(self):
        drill = drill_of("night-1-3")
        self.assertNotIn("It was", run("practice", "night-1-3")[1])
        output = run("practice", "night-1-3", "--reveal")[1]
        for words in (drill.complaint, "too little power in the dark", "Quicker", drill.lesson.rule):
            self.assertIn(words, output)

    def test_its_job_is_written_and_never_over_another(self):
        path = self.folder / "lesson.lens.json"
        self.assertEqual(run("practice", "lease-1-2", "--job", path)[0], 0)
        self.assertEqual(read_job(path).job.rehearsal.practice, "lease-1-2")
        status, _, trouble = run("practice", "lease-1-5", "--job", path)
        self.assertEqual(status, 2)
        self.assertIn("exists already", trouble)
        self.assertEqual(read_job(path).job.rehearsal.practice, "lease-1-2")

    def test_what_is_no_code_is_told(self):
        status, _, trouble = run("practice", "night-9-1")
        self.assertEqual(status, 2)
        self.assertIn("not a level", trouble)

    def test_on_a_network_its_fault_stays_hidden(self):
        drill = drill_of(ON_NETWORK)
        words = [
            sys.executable,
            "-m",
            "eager_lens",
            "site",
            "--practice",
            ON_NETWORK,
            "--loopback",
            "--json",
            "--for",
            "0.5",
        ]
        done = subprocess.run(
            words, env=environment(self.folder), capture_output=True, text=True, timeout=60, check=False
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn(drill.complaint, done.stderr)
        note = json.loads(done.stdout)
        self.assertEqual(note["faults"], [])
        self.assertNotIn("twin", done.stdout + done.stderr)

    def test_what_a_network_does_not_show_is_refused(self):
        status, _, trouble = run("site", "--practice", "night-1-3", "--loopback", "--for", "1")
        self.assertEqual(status, 2)
        self.assertIn("only in the rehearsal", trouble)


if __name__ == "__main__":
    unittest.main()
