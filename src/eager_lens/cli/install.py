"""``install`` and ``uninstall``: menu entry, icon and file type in the user's own folders, so that a job opens by a double
click. Nothing outside those folders is touched, and nothing needs to be the administrator."""

from __future__ import annotations

import argparse
import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

from eager_lens.assets import asset
from eager_lens.core.errors import advice_for
from eager_lens.core.files import write_whole

DESKTOP = "applications/eager-lens.desktop"
PLACES = {
    DESKTOP: ("desktop", "eager-lens.desktop"),
    "icons/hicolor/scalable/apps/eager-lens.svg": ("icons", "eager-lens.svg"),
    "mime/packages/eager-lens.xml": ("desktop", "eager-lens.xml"),
    "metainfo/eager-lens.metainfo.xml": ("desktop", "eager-lens.metainfo.xml"),
}
"""By its place below the data folder, each file that ships."""

REFRESHED = (("update-mime-database", "mime"), ("update-desktop-database", "applications"))
"""Programs that tell the desktop of new files, where they are there, each with the folder that it is given."""


def data_folder() -> Path:
    """Where programs of one user stand (XDG base directories)."""
    named = os.environ.get("XDG_DATA_HOME", "")
    return Path(named) if Path(named).is_absolute() else Path.home() / ".local" / "share"


def run_install(arguments: argparse.Namespace) -> int:
    """Put the files into their places; 1 when one could not be written."""
    folder = data_folder()
    try:
        for place, parts in PLACES.items():
            data = asset(*parts).read_bytes()
            if place == DESKTOP:
                data = _with_launcher(data.decode("utf-8"), launcher()).encode("utf-8")
            target = folder / place
            target.parent.mkdir(parents=True, exist_ok=True)
            write_whole(target, data)
    except OSError as error:
        print(f"eager-lens: {advice_for(error, folder / place, 'Writing')}", file=sys.stderr)
        return 1
    _refresh(folder)
    print(
        f"Installed for this user in {folder}; `eager-lens uninstall` removes it. Jobs (*.lens.json) open with a double click."
    )
    return 0


def run_uninstall(arguments: argparse.Namespace) -> int:
    """Take the files away again; jobs and preferences stay."""
    folder = data_folder()
    try:
        gone = [place for place in PLACES if (folder / place).is_file()]
        for place in gone:
            (folder / place).unlink()
    except OSError as error:
        print(f"eager-lens: {advice_for(error, folder / place, 'Removing')}", file=sys.stderr)
        return 1
    _refresh(folder)
    print(
        f"{len(gone)} files removed from {folder}. Jobs and preferences stay."
        if gone
        else "It was not installed for this user."
    )
    return 0


def launcher() -> Path:
    """What starts the program: the checkout's launcher, or the command that was called."""
    checkout = Path(__file__).resolve().parents[3] / "eager-lens"
    return checkout if checkout.is_file() else Path(shutil.which("eager-lens") or sys.argv[0]).resolve()


def _with_launcher(text: str, path: Path) -> str:
    """The menu entry with the whole path of the launcher, quoted as the Desktop Entry Specification wants it."""
    quoted = re.sub(r'(["`$\\])', r"\\\1", str(path)).replace("%", "%%").replace("\\", "\\\\")
    lines = []
    for line in text.splitlines():
        if line.startswith("Exec="):
            line = f'Exec="{quoted}" open %f'
        elif line.startswith("TryExec="):
            continue
        lines.append(line)
    return "\n".join(lines) + "\n"


def _refresh(folder: Path) -> None:
    for program, place in REFRESHED:
        found = shutil.which(program)
        if found and (folder / place).is_dir():
            subprocess.run([found, str(folder / place)], check=False, capture_output=True, timeout=60)
