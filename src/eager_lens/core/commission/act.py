"""What is sent to a device at one go, and what of a device is left to a hand."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from eager_lens.core.site_check.told import Word
from eager_lens.core.validation import Plain

ActKind = Literal[
    "first user",
    "password",
    "clock",
    "time server",
    "stream",
    "name",
    "picture text",
    "motion cells",
    "sensitivity",
    "crossing line",
    "channel",
    "address",
    "gateway",
]
"""What is set at one go, in the order in which it is set: who may log in comes first, so that nobody else is let in meanwhile;
the clock before all that needs a log-in by time; the address last, because everything before has to reach the device."""

ORDER: dict[ActKind, int] = {
    "first user": 0,
    "password": 0,
    "clock": 1,
    "time server": 2,
    "stream": 3,
    "name": 4,
    "picture text": 5,
    "sensitivity": 6,
    "motion cells": 7,
    "crossing line": 8,
    "address": 10,
    "gateway": 11,
    "channel": 12,
}

Value = Annotated[str, Field(max_length=4000)] | float | int | bool | None


class SettingRow(Plain):
    """A row of the table: what is set, as it is now, as it will be. ``note``: what was approximated, and why. ``stays``: it cannot
    be put back, as a clock that was wrong."""

    what: Word
    now: Word
    will_be: Word
    note: Word = ""
    stays: bool = False


class Act(Plain):
    """What is sent at one go.

    Attributes:
        at: which of several, by its name at the device: a profile's token, an interface, a channel.
        settings: what it sets, in words. values: what is sent; ``before``: the same as it was read, for putting it back.
        nearest: it sets the nearest that the device takes in place of what is planned, which somebody has to want.
    """

    kind: ActKind
    at: Word = ""
    settings: Annotated[tuple[SettingRow, ...], Field(max_length=32)]
    values: dict[str, Value]
    before: dict[str, Value] = Field(default_factory=dict)
    nearest: bool = False

    @property
    def key(self) -> str:
        """Its name among those of its device."""
        return f"{self.kind} {self.at}".strip()

    @property
    def can_go_back(self) -> bool:
        """Whether what was before can be set again; users and passwords cannot, and nobody wants them to be."""
        return bool(self.before) and not all(one.stays for one in self.settings)

    def reversed(self) -> Act:
        """What puts it back."""
        back = tuple(
            SettingRow(what=one.what, now=one.will_be, will_be=one.now) for one in self.settings if not one.stays
        )
        return self.model_copy(
            update={"settings": back, "values": self.before, "before": self.values, "nearest": False}
        )


class ByHand(Plain):
    """What stays a step by hand: what to do with the exact values, and why the program does not. ``kind``: of the act that it
    would be."""

    kind: ActKind
    what: Word
    why: Word


class DevicePlan(Plain):
    """What one device is set to.

    Attributes:
        device, name: of the job. address: where it is now; shared: others have that address too, by MAC address apart.
        service: the address of its device service, with the host left out, as ``http://:80/path``.
        mac_address: of this device on the wire.
        acts: in their order. by_hand: what else it wants. refused: why nothing is sent to it; empty where something may be.
    """

    device: Word
    name: Word
    address: Word = ""
    planned_address: Word = ""
    service: Word = ""
    mac_address: Word = ""
    serial: Word = ""
    shared: bool = False
    acts: Annotated[tuple[Act, ...], Field(max_length=2000)] = ()
    by_hand: Annotated[tuple[ByHand, ...], Field(max_length=200)] = ()
    refused: Word = ""

    @property
    def settings(self) -> int:
        """How many settings it is about."""
        return sum(len(act.settings) for act in self.acts)


class SetPlan(Plain):
    """What the devices of a job are set to. ``not_reached``: where the laptop would need an address, in words."""

    devices: Annotated[tuple[DevicePlan, ...], Field(max_length=20_000)] = ()
    not_reached: Annotated[tuple[Word, ...], Field(max_length=5000)] = ()

    @property
    def to_set(self) -> tuple[DevicePlan, ...]:
        """Those to which anything is sent."""
        return tuple(one for one in self.devices if one.acts)
