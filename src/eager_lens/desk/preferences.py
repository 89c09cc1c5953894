"""What one person prefers on one machine: theme, type size, length unit, recent files. Never part of a job."""

import contextlib
import json
from pathlib import Path
from typing import Annotated

import platformdirs
from pydantic import Field

from eager_lens.core.errors import RefusedInput
from eager_lens.core.files import write_whole
from eager_lens.core.validation import Plain, parse_json, read_as

MOST_RECENT = 10


class ColumnSet(Plain):
    """What one person wants of a table's columns: which are hidden, and widths in pixels at normal type, by column id."""

    hidden: Annotated[tuple[str, ...], Field(max_length=60)] = ()
    widths: dict[str, Annotated[int, Field(ge=20, le=2000)]] = Field(default_factory=dict, max_length=60)


class Preferences(Plain):
    """The stored form; a file that cannot be read counts as none."""

    dark: bool = False
    large_type: bool = False
    side_open: bool = True
    person: Annotated[str, Field(max_length=200)] = ""
    columns: dict[str, ColumnSet] = Field(default_factory=dict, max_length=200)
    recent: Annotated[tuple[str, ...], Field(max_length=MOST_RECENT)] = ()

    def with_recent(self, path: Path) -> "Preferences":
        """The same with a file as the most recent one."""
        text = str(path.resolve())
        others = [old for old in self.recent if old != text]
        return self.model_copy(update={"recent": (text, *others)[:MOST_RECENT]})


def folder() -> Path:
    """Where preferences are kept."""
    return Path(platformdirs.user_config_dir("eager-lens"))


def load_preferences(where: Path) -> Preferences:
    """The preferences in a folder, or the defaults."""
    try:
        kept = parse_json((where / "preferences.json").read_text("utf-8"))
        if isinstance(kept, dict):
            kept.pop("lengths", None)  # feet were shown in one table, until every length was in metres
        return read_as(Preferences, kept)
    except (OSError, UnicodeDecodeError, RefusedInput):
        return Preferences()


def save_preferences(where: Path, preferences: Preferences) -> None:
    """Keep the preferences. A full or read-only disk costs no more than that they are not kept."""
    with contextlib.suppress(OSError):
        where.mkdir(parents=True, exist_ok=True)
        write_whole(where / "preferences.json", json.dumps(preferences.model_dump(), indent=1).encode("utf-8"))
