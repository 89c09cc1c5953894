"""Menu entry, icon and file type in the user's own folders, and away again."""

import configparser
import os
import shutil
import unittest
import xml.etree.ElementTree as ET
from pathlib import Path
from unittest import mock

from eager_lens.cli import install
from tests.cli.test_commands import run
from tests.support import FolderCase

PLACES = sorted(install.PLACES)


class Installed(FolderCase):
    def setUp(self):
        super().setUp()
        self.data = self.folder / "share"
        patched = mock.patch.dict(os.environ, {"XDG_DATA_HOME": str(self.data)})
        patched.start()
        self.addCleanup(patched.stop)

    def entry(self):
        parser = configparser.RawConfigParser()
        parser.optionxform = str
        parser.read(self.data / "applications/eager-lens.desktop", "utf-8")
        return parser["Desktop Entry"]

    def test_all_files_are_in_their_places_and_start_this_program(self):
        status, out, err = run("install")
        self.assertEqual((status, err), (0, ""))
        self.assertIn(str(self.data), out)
        self.assertEqual([place for place in PLACES if (self.data / place).is_file()], PLACES)
        command = self.entry()["Exec"]
        self.assertTrue(Path(command.split('"')[1]).is_file())
        self.assertTrue(command.endswith('" open %f'))
        self.assertEqual(self.entry()["MimeType"], "application/x-eager-lens-job;")

    def test_the_file_type_is_that_of_the_menu_entry(self):
        run("install")
        space = {"m": "http://www.freedesktop.org/standards/shared-mime-info"}
        kind = ET.parse(self.data / "mime/packages/eager-lens.xml").find("m:mime-type", space)
        self.assertEqual(kind.get("type") + ";", self.entry()["MimeType"])
        self.assertEqual(kind.find("m:glob", space).get("pattern"), "*.lens.json")
        if shutil.which("update-mime-database"):
            self.assertIn("*.lens.json", (self.data / "mime/globs2").read_text("utf-8"))
        about = ET.parse(self.data / "metainfo/eager-lens.metainfo.xml").getroot()
        self.assertEqual(about.find("launchable").text, "eager-lens.desktop")

    def test_a_folder_with_odd_characters_is_quoted(self):
        odd = Path('/home/wren/my $tools "x" `y` 100%\\z/eager-lens')
        with mock.patch.object(install, "launcher", return_value=odd):
            run("install")
        text = (self.data / "applications/eager-lens.desktop").read_text("utf-8")
        line = next(line for line in text.splitlines() if line.startswith("Exec="))
        # Undone in the order of the specification: the file's own escapes, field codes, then the quotes.
        inside = line.removeprefix('Exec="').rpartition('" open %f')[0].replace("\\\\", "\\").replace("%%", "%")
        plain = ""
        while inside:
            plain, inside = (plain + inside[1], inside[2:]) if inside[0] == "\\" else (plain + inside[0], inside[1:])
        self.assertEqual(plain, str(odd))

    def test_uninstall_takes_away_what_it_brought_and_nothing_else(self):
        run("install")
        own = self.data / "applications/mine.desktop"
        own.write_text("mine")
        status, out, _ = run("uninstall")
        self.assertEqual(status, 0)
        self.assertIn("4 files", out)
        self.assertEqual([place for place in PLACES if (self.data / place).exists()], [])
        self.assertTrue(own.exists())
        self.assertIn("not installed", run("uninstall")[1])

    def test_a_folder_that_cannot_be_written_is_told(self):
        self.data.write_text("a file in its place")
        status, _, err = run("install")
        self.assertEqual(status, 1)
        self.assertIn("share", err)


if __name__ == "__main__":
    unittest.main()
