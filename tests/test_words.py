"""The terms of the glossary name one thing each: spelled one way where things are named, and no class name means two."""

import ast
import unittest
from collections import defaultdict
from pathlib import Path

from eager_lens.core.reference.glossary import as_markdown, column_words, glossary

ROOT = Path(__file__).parent.parent
SOURCE = ROOT / "src" / "eager_lens"
FAULT_TABLE = SOURCE / "core" / "reference" / "fault_table.json"

ONE_WAY = {
    r"hardware address|mac adress|mac-address": "MAC address",
    r"address server": "DHCP server",
    r"leased pool": "DHCP pool",
    r"small stream|sub-stream|sub stream": "substream",
    r"plug-in supply": "power supply",
    r"battery supply": "UPS",
    r"key frame every|keyframe": "key-frame interval",
    r"bitrate|bit-rate": "bit rate",
    r"framerate|frames/s": "frame rate",
    r"seconds before": "pre-recording",
    r"seconds after": "post-recording",
    r"movement": "motion",
    r"hot-spare": "hot spare",
    r"poe-class|class of power": "PoE class",
    r"internet port|wan-port": "WAN port",
    r"fire-ware|firm ware": "firmware",
}
"""Terms of the trade, as they are spelled in headings and names of fields. They name things; sentences are free."""

HEADINGS = ("TableColumn", "SheetColumn", "DeviceField", "_text", "_number", "_choice")


def headings_of(path):
    """Headings of columns and names of fields in a module."""
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.Call) and getattr(node.func, "id", getattr(node.func, "attr", "")) in HEADINGS:
            yield from (
                (one.lineno, one.value)
                for one in node.args[:2]
                if isinstance(one, ast.Constant) and isinstance(one.value, str)
            )


class Words(unittest.TestCase):
    def assert_one_way(self, where, text):
        for pattern, term in ONE_WAY.items():
            with self.subTest(where=where, text=text):
                self.assertNotRegex(text.lower(), rf"\b(?:{pattern})\b", f"the term is {term}")

    def test_terms_are_spelled_one_way_in_headings_and_fields(self):
        found = [
            (f"{path.relative_to(SOURCE)}:{line}", text)
            for path in sorted(SOURCE.rglob("*.py"))
            for line, text in headings_of(path)
        ]
        for path in (*(ROOT / "docs").rglob("*.md"), ROOT / "README.md"):
            for number, line in enumerate(path.read_text("utf-8").splitlines(), 1):
                if line.startswith("#"):
                    found.append((f"{path.relative_to(ROOT)}:{number}", line))
        self.assertGreater(len(found), 150)
        for where, text in found:
            self.assert_one_way(where, text)

    def test_no_public_class_name_means_two_things_in_the_core(self):
        homes = defaultdict(list)
        for path in (SOURCE / "core").rglob("*.py"):
            for node in ast.parse(path.read_text("utf-8")).body:
                if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                    homes[node.name].append(str(path.relative_to(SOURCE)))
        self.assertEqual({name: where for name, where in homes.items() if len(where) > 1}, {})

    def test_the_document_is_what_the_program_says(self):
        self.assertEqual((ROOT / "docs" / "glossary.md").read_text("utf-8"), as_markdown())
        terms = [one.term for one in glossary()]
        self.assertEqual(len(set(terms)), len(terms))
        self.assertIn("48-bit", column_words("mac_address"))
        self.assertEqual(column_words("no such column"), "")


if __name__ == "__main__":
    unittest.main()
