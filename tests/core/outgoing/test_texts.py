"""Every text of a sheet stands in one place, and every text there is one of a sheet."""

import ast
import re
import string
import unittest
from pathlib import Path

from eager_lens.core.outgoing.formats.texts import t, texts

CORE = Path(__file__).parents[3] / "src/eager_lens/core"
ELSEWHERE = {CORE / "outgoing/site_check_sheet.py", CORE / "outgoing/formats/difference_words.py"}
SHEETS = sorted({*(CORE / "outgoing/handover").glob("*.py"), *ELSEWHERE} - {CORE / "outgoing/handover/convert.py"})
OTHERS = (CORE / "outgoing/formats/pdf.py", CORE.parent / "assets/templates/handover.html")


def calls(tree):
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "t":
            yield node


def sentences(path):
    """Literals of two words or more that are put on paper by a module: not its docstrings, errors, and keys."""
    tree = ast.parse(path.read_text("utf-8"))
    left_out = set()
    for node in ast.walk(tree):
        parts = []
        if isinstance(node, ast.Expr | ast.Raise | ast.Compare | ast.MatchValue):
            parts = [node]
        elif isinstance(node, ast.Subscript):
            parts = [node.slice]
        elif isinstance(node, ast.Dict):
            parts = [key for key in node.keys if key is not None]
        elif isinstance(node, ast.Call) and getattr(node.func, "id", getattr(node.func, "attr", "")) in (
            *("count", "set_each", "set_fields", "setTitle", "compile", "replace", "strftime"),
        ):
            parts = node.args
        left_out |= {id(inner) for part in parts for inner in ast.walk(part)}
    for node in ast.walk(tree):
        text = node.value if isinstance(node, ast.Constant) and id(node) not in left_out else None
        if isinstance(text, str) and re.search(r"[A-Za-z]{2,} [A-Za-z]{2,}", text):
            yield node.lineno, text


class Texts(unittest.TestCase):
    def test_no_sheet_holds_a_text_of_its_own(self):
        found = [(path.name, *one) for path in SHEETS if path.name != "labels.py" for one in sentences(path)]
        self.assertEqual([one for one in found if one[0] != "pack.py"], [])

    def test_every_key_has_its_text_and_every_text_its_use(self):
        used = set()
        for path in SHEETS:
            for call in calls(ast.parse(path.read_text("utf-8"))):
                key = ast.literal_eval(call.args[0])
                used.add(key)
                places = {name for _, name, _, _ in string.Formatter().parse(texts()[key]) if name}
                self.assertEqual(places, {word.arg for word in call.keywords}, key)
        for path in OTHERS:
            used |= set(re.findall(r"\bt\(\"([a-z0-9_.]+)\"", path.read_text("utf-8")))
        self.assertEqual(used, set(texts()))

    def test_values_are_put_in_as_they_are(self):
        self.assertEqual(t("pdf.page_of", page="{pages}", pages=2), "page {pages} of 2")
        with self.assertRaises(KeyError):
            t("pdf.page_of", page=1)
        with self.assertRaises(KeyError):
            t("no.such.text")


if __name__ == "__main__":
    unittest.main()
