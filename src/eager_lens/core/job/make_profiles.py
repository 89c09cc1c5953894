"""How devices of a make behave out of the box: the address that they share, how long they start, what they refuse.

A job describes the makes that it uses; ``reference/habits.json`` gives what is assumed of all others.
"""

import json
from functools import cache
from pathlib import Path
from typing import Annotated

from pydantic import AfterValidator, Field, StringConstraints

from eager_lens.core import reference
from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.validation import Number, Plain, Whole, read_as


def _address(text: str) -> str:
    if text:
        address_number(text)
    return text


Typed = Annotated[str, StringConstraints(strict=True, pattern=r"^([!-~]{1,200})?$")]
"""What is typed into an address or a log-in: printable ASCII without spaces."""


TLS_PORT = 443
"""Where devices answer that do so over TLS."""


class MakeProfile(Plain):
    """The make profile of a make.

    Attributes:
        make: how the make is written at the start of a device's own make; empty for all that are not described.
        first_address, first_prefix: the address that every new device of the make comes with, and its subnet's size.
        takes_lease: whether it asks a DHCP server first, and comes to that address only where none answers.
        start_s: from power to ready. answers_ping: whether a ping is answered.
        announces: whether it tells its neighbours when it takes an address; else they remember the old one for a while.
        open_protocol_on: whether the open protocol is on out of the box. open_user_own: whether it has users of its own.
        password_least, password_kinds: least length, and of small, capital, digit and sign how many are wanted.
        tries, locked_min: wrong log-ins in a row until it locks itself, and minutes for which it stays so.
        drift_ppm: most that its clock gains or loses without a time server.
        firmware_first, firmware_now, update_s: as delivered, as it should be, and how long an update takes with its restart.
        in_box_min: minutes that it may run in its box at 20 °C; 0: not at all.
        clock_off_s: open log-ins are refused when the clocks differ by more; 0: never.
        budget_by_class: of what feeds others: whether it sets watts aside by class, or counts what is drawn.
        default_password: the password that every new device of the make comes with; empty: none, or it is not known.
        user_name: the name of its web user. http_port, rtsp_port: TCP ports of its page and of its streams.
        main_stream_path, substream_path: the path of each stream's address, without the slash that it begins with.
    """

    make: Annotated[str, StringConstraints(strict=True, max_length=200)] = ""
    first_address: Annotated[str, StringConstraints(strict=True), AfterValidator(_address)] = "172.30.0.50"
    first_prefix: Annotated[Whole, Field(ge=8, le=30)] = 24
    takes_lease: bool = False
    start_s: Annotated[Number, Field(le=3600)] = 90
    answers_ping: bool = True
    announces: bool = True
    open_protocol_on: bool = False
    open_user_own: bool = True
    password_least: Annotated[Whole, Field(le=64)] = 8
    password_kinds: Annotated[Whole, Field(le=4)] = 3
    tries: Annotated[Whole, Field(ge=1, le=100)] = 5
    locked_min: Annotated[Number, Field(le=10_000)] = 10
    drift_ppm: Annotated[Number, Field(le=10_000)] = 20
    firmware_first: Annotated[str, StringConstraints(strict=True, max_length=50)] = "1.0"
    firmware_now: Annotated[str, StringConstraints(strict=True, max_length=50)] = "1.2"
    update_s: Annotated[Number, Field(le=36_000)] = 180
    in_box_min: Annotated[Number, Field(le=1000)] = 10
    clock_off_s: Annotated[Number, Field(le=1e9)] = 600
    budget_by_class: bool = False
    default_password: Typed = ""
    user_name: Typed = "installer"
    http_port: Annotated[Whole, Field(ge=1, le=65_535)] = 80
    rtsp_port: Annotated[Whole, Field(ge=1, le=65_535)] = 554
    main_stream_path: Typed = "main"
    substream_path: Typed = "sub"


@cache
def usual_profile() -> MakeProfile:
    """What is assumed of a make that is not described."""
    data = json.loads(Path(reference.__file__).with_name("make_profiles.json").read_text("utf-8"))
    return read_as(MakeProfile, data["usual"])


def profile_of(make: str, described: tuple[MakeProfile, ...]) -> MakeProfile:
    """The make profile of a device's make: those with the longest matching start, else what is assumed."""
    text = make.strip().lower()
    fitting = [one for one in described if one.make.strip() and text.startswith(one.make.strip().lower())]
    return max(fitting, key=lambda one: len(one.make)) if fitting else usual_profile()


HEAT_FULL_C, HEAT_NONE_C = 20.0, 45.0
"""In its box a device may run its whole time up to the first, and not at all from the second (assumed)."""


def box_minutes(profile: MakeProfile, ambient_c: float) -> float:
    """How long a device may run in its box where it is so warm."""
    share = (HEAT_NONE_C - ambient_c) / (HEAT_NONE_C - HEAT_FULL_C)
    return profile.in_box_min * max(0.0, min(1.0, share))


def maker_of(make: str) -> str:
    """Who made it: the first word. Devices of one maker speak one protocol of their own; nothing is known of no word."""
    words = make.split()
    return words[0].lower() if words else ""
