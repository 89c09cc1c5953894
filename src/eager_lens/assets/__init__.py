"""Fonts, icons, templates and the demo job, as files that ship with the program."""

from pathlib import Path


def asset(*parts: str) -> Path:
    """A file that ships, by its place below this folder."""
    return Path(__file__).parent.joinpath(*parts)
