"""Copies on which no IP or MAC address stands: one place decides what is one, for every text of every file of a copy."""

from __future__ import annotations

import hashlib
import ipaddress
import re
from collections.abc import Iterable
from typing import TypeVar

from eager_lens.core.job.model import Job
from eager_lens.core.outgoing.formats.sheets import with_texts

LEFT_OUT = "(left out)"

_FULL_WIDTH = str.maketrans("０１２３４５６７８９．：－ＡＢＣＤＥＦａｂｃｄｅｆ", "0123456789.:-ABCDEFabcdef")
_OCTET = r"(?:25[0-5]|2[0-4][0-9]|[01]?[0-9]?[0-9])"
_MARK = r"\s?[._\-]\s?"
_IPV4 = re.compile(rf"(?<![0-9.])(?:{_OCTET}\.){{3}}{_OCTET}(?:/[0-9]{{1,2}})?(?![0-9]|\.[0-9])")
_PRIVATE = re.compile(
    rf"(?<![0-9])(?:0?10(?:{_MARK}{_OCTET}){{3}}|(?:192{_MARK}168|169{_MARK}254|172{_MARK}0?(?:1[6-9]|2[0-9]|3[01]))"
    rf"(?:{_MARK}{_OCTET}){{2}})(?:/[0-9]{{1,2}})?(?![0-9])"
)
"""A private address with other marks between its numbers: 10-0-0-5, 192_168_1_20, 10 . 0 . 0 . 5."""

_HEX = "[0-9A-Fa-f]"
_MAC = re.compile(rf"(?<!{_HEX}){_HEX}{{1,2}}([:\-])(?:{_HEX}{{1,2}}\1){{4}}{_HEX}{{1,2}}(?!{_HEX})")
_MAC_SPACED = re.compile(
    rf"(?<!{_HEX})(?=[0-9 ._]*[A-Fa-f]){_HEX}{{2}}([ ._])(?:{_HEX}{{2}}\1){{4}}{_HEX}{{2}}(?!{_HEX})"
)
_MAC_IN_FOURS = re.compile(rf"(?<!{_HEX})(?=[0-9.:\- ]*[A-Fa-f]){_HEX}{{4}}([.:\- ]){_HEX}{{4}}\1{_HEX}{{4}}(?!{_HEX})")
_MAC_BARE = re.compile(rf"(?<!{_HEX})(?=[0-9]*[A-Fa-f]){_HEX}{{12}}(?!{_HEX})")
"""Without a mark that is theirs alone, hex digits count only with a letter among them: twelve figures may be a telephone
number."""

_IPV6 = re.compile(
    r"(?<![0-9A-Za-z:.])[0-9A-Fa-f:]*:[0-9A-Fa-f:]*:[0-9A-Fa-f:.]*(?:%\w+)?(?:/\d{1,3})?(?![0-9A-Za-z:])"
)

T = TypeVar("T")


class WithoutAddresses:
    """Takes addresses out of texts: those of a job however they are written, and whatever else is one."""

    def __init__(self, job: Job) -> None:
        own = {text for device in job.devices() for text in (device.mac_address, device.address) if text}
        own |= {recorder.camera_interface_address for recorder in job.recorders if recorder.camera_interface_address}
        self._own = _as_written(own)

    def text(self, text: str) -> str:
        """A text without any address."""
        text = text.translate(_FULL_WIDTH)
        if self._own is not None:
            text = self._own.sub(LEFT_OUT, text)
        for form in (_MAC, _MAC_SPACED, _MAC_IN_FOURS, _MAC_BARE, _IPV4, _PRIVATE):
            text = form.sub(LEFT_OUT, text)
        return _IPV6.sub(_without_ipv6, text)

    def all_of(self, thing: T) -> T:
        """A record with all that it holds, every text of it without any address; what is no text stays as it is."""
        return with_texts(thing, self.text)

    def job(self, job: Job) -> Job:
        """A job whose names hold no address, for files that are made from the job itself, as its calendar."""
        schedules = tuple(
            one.model_copy(update={"name": self.text(one.name), "id": self._id(one.id)}) for one in job.schedules
        )
        exceptions = tuple(
            one.model_copy(
                update={
                    "name": self.text(one.name),
                    **{name: self._id(getattr(one, name)) for name in ("id", "schedule", "instead_of")},
                }
            )
            for one in job.exceptions
        )
        names = {name: self.text(getattr(job, name)) for name in ("name", "customer", "site")}
        return job.model_copy(update={"schedules": schedules, "exceptions": exceptions, **names})

    def _id(self, name: str) -> str:
        """An id, in another form where somebody wrote an address into it."""
        return name if self.text(name) == name else hashlib.sha256(name.encode()).hexdigest()[:16]


def _as_written(texts: Iterable[str]) -> re.Pattern[str] | None:
    """A pattern of addresses however somebody writes them: with other marks between their parts, or none."""
    forms = []
    for text in sorted(texts, key=len, reverse=True):
        if ":" in text:
            forms.append(r"[:\-. _]?".join(re.escape(one) for one in text.replace(":", "")))
        else:
            forms.append(r"[ ._\-]{1,3}".join(f"0{{0,2}}{part}" for part in text.split(".")))
    if not forms:
        return None
    return re.compile(rf"(?<![0-9A-Fa-f])(?:{'|'.join(forms)})(?![0-9A-Fa-f])", re.IGNORECASE)


def _without_ipv6(found: re.Match[str]) -> str:
    token = found[0]
    bare = token.rstrip(".:")  # the end of a sentence, or what introduces one
    return LEFT_OUT + token[len(bare) :] if _is_ipv6(bare) else token


def _is_ipv6(text: str) -> bool:
    bare = text.partition("/")[0].partition("%")[0]
    if len(bare) < 4 or ("::" not in bare and bare.count(":") < 7):
        return False  # a time of day
    try:
        ipaddress.IPv6Address(bare)
    except ValueError:
        return False
    return True
