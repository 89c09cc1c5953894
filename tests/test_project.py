"""The project as a whole: layers, packaging, launcher, and what must not stand in a committed file."""

import ast
import os
import re
import subprocess
import sys
import tempfile
import unittest
import venv
import zipfile
from pathlib import Path

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "eager_lens"


def python_files(folder):
    return sorted(folder.rglob("*.py"))


def imported(path):
    """The modules that a file imports, wherever in it."""
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom) and node.module:
            yield node.module


class Layers(unittest.TestCase):
    def test_the_core_imports_neither_window_nor_command_line(self):
        for path in python_files(SOURCE / "core"):
            for module in imported(path):
                with self.subTest(path=path.name):
                    self.assertFalse(module.startswith(("PySide6", "eager_lens.desk", "eager_lens.cli")), module)

    def test_a_page_imports_no_other_page(self):
        pages = SOURCE / "desk" / "pages"
        for path in python_files(pages):
            own = f"eager_lens.desk.pages.{path.relative_to(pages).parts[0]}"
            for module in imported(path):
                if module.startswith("eager_lens.desk.pages."):
                    self.assertTrue(module.startswith(own), f"{path} imports {module}")

    def test_colours_and_style_sheets_stand_only_in_the_theme(self):
        for path in python_files(SOURCE / "desk"):
            if "theme" in path.parts:
                continue
            text = path.read_text("utf-8")
            with self.subTest(path.name):
                self.assertNotRegex(text, r"#[0-9A-Fa-f]{6}\b")
                self.assertNotIn("setStyleSheet", text)

    def test_the_core_loads_without_the_toolkit(self):
        code = (
            "import sys; sys.modules['PySide6'] = None\n"
            "import pkgutil, importlib, eager_lens.core as core\n"
            "for m in pkgutil.walk_packages(core.__path__, 'eager_lens.core.'): importlib.import_module(m.name)"
        )
        subprocess.run([sys.executable, "-c", code], env={"PYTHONPATH": str(ROOT / "src")}, check=True)


class Toolkit(unittest.TestCase):
    def test_none_returned_by_the_toolkit_keeps_its_count(self):
        """Toolkit releases from 6.12 on drop one reference to None at each call on Python 3.11, and crash after a while."""
        code = (
            "import sys\nfrom PySide6.QtCore import QObject\no = QObject()\nbefore = sys.getrefcount(None)\n"
            "for _ in range(500): o.parent()\nsys.exit(abs(sys.getrefcount(None) - before) > 100)"
        )
        done = subprocess.run([sys.executable, "-c", code], check=False)
        self.assertEqual(done.returncode, 0)


class Committed(unittest.TestCase):
    def test_locks_are_pinned_with_hashes_and_name_no_place(self):
        for name in ("requirements.lock", "requirements-dev.lock"):
            text = (ROOT / name).read_text("utf-8")
            with self.subTest(name):
                self.assertNotRegex(text, r"https?://|--index-url|--find-links|--extra-index")
                pins = re.findall(r"^([a-z0-9_.-]+)==", text, re.MULTILINE)
                self.assertGreater(len(pins), 10)
                blocks = re.split(r"^(?=[a-z0-9_.-]+==)", text, flags=re.MULTILINE)[1:]
                self.assertTrue(all("--hash=sha256:" in block for block in blocks))

    def test_the_file_format_page_and_the_code_agree(self):
        from eager_lens.core.job.model import Camera, Job, NetworkDevice, Recorder, SubnetPlan

        text = (ROOT / "docs" / "file-format.md").read_text("utf-8")
        for model in (Job, Camera, Recorder, NetworkDevice, SubnetPlan):
            for field in model.model_fields:
                with self.subTest(model=model.__name__, field=field):
                    self.assertIn(f"`{field}`", text)

    def test_the_pictures_are_linked_from_the_readme(self):
        readme = (ROOT / "README.md").read_text("utf-8")
        pictures = sorted((ROOT / "docs" / "screenshots").glob("*.png"))
        self.assertTrue(
            {"start.png", "sizing.png", "addresses.png", "week.png", "handover.png"} <= {p.name for p in pictures}
        )
        for picture in pictures:
            self.assertIn(f"docs/screenshots/{picture.name}", readme)


class Launcher(unittest.TestCase):
    def test_it_is_a_valid_script_that_says_what_is_missing(self):
        subprocess.run(["sh", "-n", str(ROOT / "eager-lens")], check=True)
        with tempfile.TemporaryDirectory() as place:
            folder = Path(place)
            for name in ("eager-lens", "requirements.lock", "requirements-dev.lock"):
                (folder / name).write_bytes((ROOT / name).read_bytes())
            (folder / "eager-lens").chmod(0o755)
            tools = folder / "tools"
            tools.mkdir()
            for tool in ("sh", "cat", "cksum", "dirname", "readlink", "id", "tail", "rm"):
                found = subprocess.run(["which", tool], capture_output=True, text=True, check=True).stdout.strip()
                (tools / tool).symlink_to(found)
            done = subprocess.run(
                [str(folder / "eager-lens"), "demo"],
                env={"PATH": str(tools)},
                capture_output=True,
                text=True,
                check=False,
            )
            self.assertEqual(done.returncode, 3)
            self.assertIn("apt install python3 python3-venv", done.stderr)


class Wheel(unittest.TestCase):
    def test_built_installed_and_started_from_a_new_environment(self):
        with tempfile.TemporaryDirectory() as place:
            folder = Path(place)
            build = [sys.executable, "-m", "hatchling", "build", "-t", "wheel", "-d", str(folder)]
            subprocess.run(build, cwd=ROOT, check=True, capture_output=True)
            (wheel,) = folder.glob("*.whl")
            names = zipfile.ZipFile(wheel).namelist()
            for wanted in (
                "eager_lens/assets/demo/brindlemoor.lens.json",
                "eager_lens/assets/fonts/Inter-Regular.ttf",
                "eager_lens/assets/fonts/B612-Regular.otf",
                "eager_lens/assets/icons/sizing.svg",
                "eager_lens/assets/templates/handover.html",
                "eager_lens/core/reference/stream_assumptions.json",
                "eager_lens/desk/theme/style.qss",
            ):
                self.assertIn(wanted, names)
            self.assertTrue(any(name.endswith("share/applications/eager-lens.desktop") for name in names))
            self.assertTrue(any(name.endswith("apps/eager-lens.svg") for name in names))
            self.start_from(folder / "new", wheel)

    def start_from(self, place, wheel):
        """Install the wheel alone into a new environment that borrows only its dependencies from this one."""
        venv.create(place, with_pip=True)
        python = place / "bin" / "python"
        install = [python, "-m", "pip", "install", "--quiet", "--no-index", "--no-deps", str(wheel)]
        subprocess.run(install, check=True, capture_output=True)
        theirs = next((place / "lib").glob("python*/site-packages"))
        ours = next(path for path in sys.path if path.endswith("site-packages"))
        (theirs / "borrowed.pth").write_text(ours + "\n", "utf-8")
        clean = {"PATH": os.environ["PATH"], "HOME": str(place), "QT_QPA_PLATFORM": "offscreen"}
        program = place / "bin" / "eager-lens"
        told = {"env": clean, "cwd": place, "capture_output": True, "text": True, "timeout": 120, "check": False}
        done = subprocess.run([program, "demo", "--for", "4", "--tell"], **told)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("job drawn", done.stdout)
        where = subprocess.run([python, "-c", "import eager_lens; print(eager_lens.__file__)"], **told).stdout
        self.assertIn(str(place), where)


if __name__ == "__main__":
    unittest.main()
