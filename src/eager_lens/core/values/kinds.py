"""Kinds of what moves."""

from __future__ import annotations

from typing import Literal

Kind = Literal["person", "cyclist", "vehicle", "tram", "animal"]
KINDS: tuple[Kind, ...] = ("person", "cyclist", "vehicle", "tram", "animal")
