"""What each kind of act sends."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Mapping
from typing import Any

from eager_lens.core.commission.act import Act, ActKind
from eager_lens.core.commission.motion import CELLS_NAME, LINE_NAME
from eager_lens.onsite.open_protocol.conversation import User
from eager_lens.onsite.open_protocol.opened import OpenedDevice
from eager_lens.onsite.open_protocol.setting_device import (
    create_user,
    set_address,
    set_clock,
    set_gateway,
    set_name,
    set_password,
    set_time_server,
    start_again,
)
from eager_lens.onsite.open_protocol.setting_picture import set_cells, set_line, set_sensitivity, set_stream, set_text
from eager_lens.onsite.open_protocol.setting_recorder import add_channel

Passwords = Mapping[str, str]
"""By device id, from the unlocked sealed file."""


async def send(opened: OpenedDevice, act: Act, device_id: str, passwords: Passwords) -> None:
    """Send an act to its device.

    Raises:
        NotTold: when it was refused, or not answered.
    """
    own = passwords.get(device_id, "")
    if act.kind in ("first user", "password"):
        setting = create_user if act.kind == "first user" else set_password
        await setting(opened, str(act.values["user"]), own)
    elif act.kind == "channel":
        login = User(str(act.values["user"]), passwords.get(str(act.values["camera"]), ""))
        await add_channel(opened, str(act.values["name"]), str(act.values["stream"]), login)
    else:
        await _SENDS[act.kind](opened, act)


async def _address(opened: OpenedDevice, act: Act) -> None:
    values: Mapping[str, Any] = act.values
    if await set_address(opened, act.at, values["address"], values["prefix"], values["dhcp"]):
        await start_again(opened)


def _text(opened: OpenedDevice, act: Act) -> Awaitable[None]:
    return set_text(opened, act.values)


_SENDS: dict[ActKind, Callable[[OpenedDevice, Act], Awaitable[None]]] = {
    "clock": lambda opened, act: set_clock(opened, str(act.values["zone"])),
    "time server": lambda opened, act: set_time_server(opened, str(act.values["server"]), str(act.values["zone"])),
    "stream": lambda opened, act: set_stream(opened, act.values),
    "name": lambda opened, act: set_name(opened, str(act.values["name"])),
    "picture text": _text,
    "sensitivity": lambda opened, act: set_sensitivity(opened, act.values),
    "motion cells": lambda opened, act: set_cells(opened, act.values, CELLS_NAME),
    "crossing line": lambda opened, act: set_line(opened, act.values, LINE_NAME),
    "address": _address,
    "gateway": lambda opened, act: set_gateway(opened, str(act.values["gateway"])),
}
