"""Who may do what on a device: first-use set-up, web user, open-protocol user, wrong tries and the lock after them."""

from __future__ import annotations

from typing import Literal

from eager_lens.core.device_passwords import RULE
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.simulation.clocks import apart_s
from eager_lens.core.simulation.parts import DEFAULT_PASSWORD, Unit
from eager_lens.core.simulation.site import Site

SHORT_PASSWORD = "short"
"""The stand-in for what people type when nobody looks: four digits."""

Login = Literal["in", "not set up", "locked", "wrong", "off", "no user", "clock"]

WORDS: dict[Login, str] = {
    "in": "logged in",
    "not set up": "it is not set up yet and answers searches only",
    "locked": "it has locked itself after too many wrong tries",
    "wrong": "the password is wrong",
    "off": "its open protocol is off",
    "no user": "its open protocol has no user yet; the web user is another",
    "clock": "its clock is too far off, so it refuses the log-in",
}


def password_trouble(profile: MakeProfile, stand_in: str) -> str:
    """Why a device would not take a password as its first; empty when it does.

    Stand-ins other than the default and the short one are passwords made by the program's own rule.
    """
    if stand_in == DEFAULT_PASSWORD:
        return "the default password may not stay"
    length, kinds = (4, 1) if stand_in == SHORT_PASSWORD else (RULE.length, len(RULE.kinds))
    if length < profile.password_least:
        return f"the password is too short: {length} characters, at least {profile.password_least} are wanted"
    if kinds < profile.password_kinds:
        return f"the password has {kinds} kind of characters, {profile.password_kinds} are wanted (small, capital, digit, sign)"
    return ""


def log_in(site: Site, unit: Unit, stand_in: str) -> Login:
    """Try the web user's password; wrong tries count, and lock the device in the end."""
    if not unit.access.is_set_up:
        return "not set up"
    return _tried(site, unit, stand_in == unit.access.password)


def log_in_open(site: Site, unit: Unit, stand_in: str, asker: Unit) -> Login:
    """Try the open protocol's user, from a unit whose clock is compared."""
    access = unit.access
    if not access.is_set_up:
        return "not set up"
    if not access.open_on:
        return "off"
    if unit.profile.open_user_own and access.open_password is None:
        return "no user"
    if unit.profile.clock_off_s and abs(apart_s(site, unit, asker)) > unit.profile.clock_off_s:
        return "clock"
    wanted = access.open_password if unit.profile.open_user_own else access.password
    return _tried(site, unit, stand_in == wanted)


def _tried(site: Site, unit: Unit, right: bool) -> Login:
    access = unit.access
    if access.locked_until_s > site.now_s:
        return "locked"
    if right:
        access.wrong = 0
        return "in"
    access.wrong += 1
    if access.wrong >= unit.profile.tries:
        access.wrong = 0
        access.locked_until_s = site.now_s + unit.profile.locked_min * 60
        site.tell(
            unit,
            f"{unit.name} locked itself for {unit.profile.locked_min:g} min after {unit.profile.tries} wrong log-ins; "
            "whatever keeps trying keeps it locked",
            "lesson",
        )
        site.event_queue.after(unit.profile.locked_min * 60 + 1, unit.id, "unlocked")
    return "wrong"


def unlocked(site: Site, unit: Unit, mark: int) -> None:
    """A lock has run out; recorders may try again."""
    for recorder in site.recorders():
        site.want_round(recorder)
