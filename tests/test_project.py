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

import grimp

from tests.support import takes_long
from tools import figures

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


class Structure(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.graph = grimp.build_graph("eager_lens", cache_dir=None)

    def test_the_drawing_of_the_rooms_is_that_of_the_imports(self):
        text = figures.DRAWING.read_text("utf-8")
        drawn = figures.with_drawing(text, figures.drawing(self.graph))
        self.assertEqual(text, drawn, "draw it anew: ./eager-lens figures --write")

    def test_arrows_lead_downward_and_tests_have_their_share(self):
        for words, is_now, wanted, holds in figures.rows(self.graph):
            with self.subTest(words):
                self.assertTrue(holds, f"{is_now}, wanted {wanted}")

    def test_an_upward_arrow_and_a_cycle_would_be_seen(self):
        layers = [["a"], ["b", "c"]]
        self.assertEqual(figures.upward({"b": {"a", "c"}, "a": {"b"}}, layers), ["b -> a"])
        graph = grimp.ImportGraph()
        for pair in (("a", "b"), ("b", "c"), ("c", "a"), ("c", "d")):
            for module in pair:
                graph.add_module(module)
            graph.add_import(importer=pair[0], imported=pair[1])
        self.assertEqual(set(figures.cycle(graph).split(" -> ")), {"a", "b", "c"})

    def test_arrows_that_follow_from_others_are_not_drawn(self):
        self.assertEqual(figures.needed({"a": {"b", "c"}, "b": {"c"}}), {"a": {"b"}, "b": {"c"}})


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

    def test_the_window_loads_without_the_numeric_libraries_and_without_reading_its_source(self):
        code = "import sys, linecache, eager_lens.desk.window; print(*sorted(sys.modules), *linecache.cache)"
        environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        done = subprocess.run([sys.executable, "-c", code], env=environment, check=True, capture_output=True, text=True)
        for heavy in ("numpy", "scipy", "av", "cryptography", "reportlab", "openpyxl"):
            self.assertNotIn(heavy, done.stdout.split())
        self.assertNotIn("eager_lens/core/", done.stdout)


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
        from eager_lens.core.job.model import Camera, Job, Link, NetworkDevice, Recorder, SubnetPlan

        text = (ROOT / "docs" / "file-format.md").read_text("utf-8")
        for model in (Job, Camera, Recorder, NetworkDevice, SubnetPlan, Link):
            for field in model.model_fields:
                with self.subTest(model=model.__name__, field=field):
                    self.assertIn(f"`{field}`", text)

    def test_the_pictures_are_linked_from_the_readme(self):
        readme = (ROOT / "README.md").read_text("utf-8")
        pictures = sorted((ROOT / "docs" / "screenshots").glob("*.png"))
        self.assertTrue(
            {"start.png", "sizing.png", "addresses.png", "schedule.png", "handover.png"} <= {p.name for p in pictures}
        )
        for picture in pictures:
            self.assertIn(f"docs/screenshots/{picture.name}", readme)


class Launcher(unittest.TestCase):
    def setUp(self):
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name)
        for name in ("eager-lens", "requirements.lock", "requirements-dev.lock"):
            (self.folder / name).write_bytes((ROOT / name).read_bytes())
        (self.folder / "eager-lens").chmod(0o755)
        self.tools = self.folder / "tools"
        self.tools.mkdir()
        for tool in ("sh", "cat", "cksum", "dirname", "readlink", "sort", "tr", "rm"):
            found = subprocess.run(["which", tool], capture_output=True, text=True, check=True).stdout.strip()
            (self.tools / tool).symlink_to(found)

    def tool(self, path, text):
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(f"#!/bin/sh\n{text}\n", "utf-8")
        path.chmod(0o755)

    def start(self, **environment):
        command = [str(self.folder / "eager-lens"), "demo"]
        env = {"PATH": str(self.tools), **environment}
        return subprocess.run(command, env=env, capture_output=True, text=True, check=False)

    def test_without_python_it_says_what_to_install(self):
        done = self.start()
        self.assertEqual(done.returncode, 3)
        self.assertIn("apt install python3 python3-venv", done.stderr)

    def test_libraries_that_the_screen_needs_are_named_by_their_packages(self):
        venv_folder = self.folder / ".venv"
        self.tool(venv_folder / "bin" / "python", 'echo "started: $*"')
        locks = (self.folder / "requirements.lock").read_bytes()
        stamp = subprocess.run(["cksum"], input=locks + locks, capture_output=True, check=True).stdout.strip()
        (venv_folder / "set-up-requirements.lock").write_bytes(stamp)
        plugin = venv_folder / "lib/python3.11/site-packages/PySide6/Qt/plugins/platforms/libqxcb.so"
        plugin.parent.mkdir(parents=True)
        plugin.touch()
        self.tool(self.tools / "id", "echo 1000")
        missing = "libxcb-cursor.so.0 libxcb-icccm.so.4 libEGL.so.1 libX11-xcb.so.1 libstrange.so.9"
        lines = "\n".join(f'echo "\t{name} => not found"' for name in missing.split())
        self.tool(self.tools / "ldd", f'echo "\tlibc.so.6 => /lib/libc.so.6 (0x1)"\n{lines}')
        done = self.start(DISPLAY=":9")
        self.assertEqual(done.returncode, 3)
        wanted = "sudo apt install libegl1 libstrange.so.9 libx11-xcb1 libxcb-cursor0 libxcb-icccm4"
        self.assertIn(wanted, done.stderr)
        self.assertEqual(self.start().stdout.strip(), "started: -m eager_lens demo")
        self.tool(self.tools / "ldd", "exit 0")
        self.assertEqual(self.start(DISPLAY=":9").stdout.strip(), "started: -m eager_lens demo")


class Wheel(unittest.TestCase):
    @takes_long
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
        venv.create(place)
        python = place / "bin" / "python"
        pip = [sys.executable, "-m", "pip", "--python", str(python)]
        install = [*pip, "install", "--quiet", "--no-index", "--no-deps", str(wheel)]
        subprocess.run(install, check=True, capture_output=True)
        theirs = next((place / "lib").glob("python*/site-packages"))
        ours = next(path for path in sys.path if path.endswith("site-packages"))
        (theirs / "borrowed.pth").write_text(ours + "\n", "utf-8")
        clean = {"PATH": os.environ["PATH"], "HOME": str(place), "QT_QPA_PLATFORM": "offscreen"}
        program = place / "bin" / "eager-lens"
        how = {"env": clean, "cwd": place, "text": True}
        # Until it is drawn, however long that takes here; the window would stay for a quarter of an hour.
        window = subprocess.Popen([program, "demo", "--for", "900", "--tell"], stdout=subprocess.PIPE, **how)
        self.addCleanup(window.wait)
        self.addCleanup(window.kill)
        with window.stdout as lines:
            self.assertTrue(any("job drawn" in line for line in lines), "it ended before its job was drawn")
        where = subprocess.check_output([python, "-c", "import eager_lens; print(eager_lens.__file__)"], **how)
        self.assertIn(str(place), where)


if __name__ == "__main__":
    unittest.main()
