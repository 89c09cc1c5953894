"""The words of the glossary hold: what it replaced stands nowhere that people read, and no class name means two things."""

import ast
import re
import unittest
from collections import defaultdict
from pathlib import Path

from eager_lens.core.reference.glossary import as_markdown, column_words, glossary

ROOT = Path(__file__).parent.parent
SOURCE = ROOT / "src" / "eager_lens"
FAULT_TABLE = SOURCE / "core" / "reference" / "fault_table.json"

FORBIDDEN = {
    r"hardware address": "MAC address",
    r"address servers?": "DHCP server",
    r"leased pools?|leases first|leased, then frozen": "DHCP pool, DHCP",
    r"sockets?": "port",
    r"internet port": "WAN port",
    r"small streams?": "substream",
    r"plug-in suppl(y|ies)|battery suppl(y|ies)": "power supply, UPS",
    r"sets? .{0,20}aside": "allocated",
    r"powered (ports?|switch)": "PoE",
    r"copper-clad(?! aluminium: a)": "CCA",
    r"key frame every|seconds between key frames": "key-frame interval",
    r"movements?": "motion",
    r"seconds (before|after)": "pre-recording, post-recording",
    r"seasons?(?<!busy season)": "exception",
    r"idle|on an input": "off, alarm input",
    r"told falsely|really there": "false alarm, true detection",
    r"serves? to": "good for",
    r"air ?time(?<!airtime)": "airtime",
    r"chosen|choose[sn]?|choosing": "selected",
    r"doubts?": "warning",
    r"bring(ing)?[- ]up": "commissioning",
    r"deeds?": "action",
    r"the tape": "event log",
    r"habits?": "make profile",
    r"set it so|wire it so|put the selected": "apply, connect",
    r"spares(?<!hot spares)": "hot spares",
}
"""What must not be read any more, and what stands in its place."""

ALLOWED = ("unnamed time is `idle`",)
"""Sentences that mean something else."""

OLD_NAMES = ("migrations.py", "camera_import.py", "fields.py", "calendar_file.py")
"""They read what older versions and other programs wrote."""


def texts_of(path):
    """The texts of a module that somebody may read: literals that are no names, keys or docstrings."""
    tree = ast.parse(path.read_text("utf-8"))
    documents = {
        id(node.body[0].value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef)
        and node.body
        and isinstance(node.body[0], ast.Expr)
    }
    for node in ast.walk(tree):
        # A literal that stands by itself after a name describes that name to engineers.
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            documents.add(id(node.value))
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "count":
            # A single word that is counted looks like a name, and is read.
            yield from ((one.lineno, one.value) for one in node.args if isinstance(one, ast.Constant))
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in documents:
            text = node.value.replace("\u00a0", " ")
            if not re.fullmatch(r"[a-z0-9_.\-]*", text) and "\\" not in text:
                yield node.lineno, text


class Words(unittest.TestCase):
    def assert_clean(self, where, text):
        for pattern, instead in FORBIDDEN.items():
            found = re.search(rf"\b(?:{pattern})\b", text, re.IGNORECASE)
            if found and not any(sentence in text for sentence in ALLOWED):
                with self.subTest(where=where, found=found[0]):
                    self.fail(f"{where}: {found[0]!r} in {text[:90]!r}; the glossary has {instead}")

    def test_no_forbidden_word_is_read_on_the_screen(self):
        for path in sorted(SOURCE.rglob("*.py")):
            if path.name not in OLD_NAMES:
                for line, text in texts_of(path):
                    self.assert_clean(f"{path.relative_to(SOURCE)}:{line}", text)

    def test_nor_in_tables_templates_and_documents(self):
        for path in (*SOURCE.rglob("*.html"), FAULT_TABLE, *(ROOT / "docs").rglob("*.md"), ROOT / "README.md"):
            for number, line in enumerate(path.read_text("utf-8").splitlines(), 1):
                plain = re.sub(r"`[^`]*`|\]\([^)]*\)", "", line)
                self.assert_clean(f"{path.relative_to(ROOT)}:{number}", plain)

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
