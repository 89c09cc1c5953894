"""Older versions of the job file, brought up to today's one step at a time.

A step takes the parsed document of version N and returns that of version N + 1. It works on plain JSON values, never
on the job's classes, so that it stays true when those change.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

FORMAT = "eager-lens-job"
VERSION = 1

Step = Callable[[dict[str, Any]], dict[str, Any]]

STEPS: dict[int, Step] = {}
"""By the version that a step starts from. Empty as long as there is one version."""


def migrated(
    document: dict[str, Any], version: int, to: int = VERSION, steps: Mapping[int, Step] = STEPS
) -> dict[str, Any]:
    """The document of ``version`` as one of version ``to``."""
    for start in range(version, to):
        document = steps[start](document)
    return document
