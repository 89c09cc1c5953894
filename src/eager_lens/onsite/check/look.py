"""A look at one device: what it tells by the open protocol, its streams, its clock, its event port; with one log-in."""

from __future__ import annotations

import contextlib
from collections.abc import Awaitable, Callable, Mapping
from typing import Any

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.job.make_profiles import TLS_PORT
from eager_lens.core.site_check.readings import DeviceRead, Heard, Login, Switches
from eager_lens.core.site_check.scope import Target
from eager_lens.core.site_check.told import Told
from eager_lens.onsite.bounded_http import Http
from eager_lens.onsite.check import page
from eager_lens.onsite.check.connecting import connected
from eager_lens.onsite.check.network import Network
from eager_lens.onsite.check.stream import Streamed, Wanted, read_streams
from eager_lens.onsite.digest import DigestLogin
from eager_lens.onsite.open_protocol.conversation import User
from eager_lens.onsite.open_protocol.endpoints import Endpoint, endpoint_of
from eager_lens.onsite.open_protocol.names import DEVICE_PATH
from eager_lens.onsite.open_protocol.reading import Part, Reading, read_device
from eager_lens.onsite.open_protocol.reading import Wanted as WantedOfProtocol

SUBSTREAM_S = 3.0
FURTHER_PORTS = (("https", TLS_PORT), ("http", 80), ("http", 8080), ("http", 8000))
"""Where the device service is looked for besides the make's own port, where no search told it."""

CLOCKS_AGREE_S = 3.0
"""Sender reports may tell any clock of the camera's; they count where they agree with the time that it tells otherwise."""

OPEN_PROTOCOL_OFF = "the open protocol does not answer"


class Look:
    """Looks at devices of a job, each with one log-in at the most."""

    def __init__(
        self,
        network: Network,
        switches: Switches,
        passwords: Mapping[str, str],
        turn: Callable[[], Awaitable[None]],
        only: frozenset[Part] | None = None,
    ) -> None:
        """``only``: no more than these parts of what the open protocol tells."""
        self._only = only
        self._network, self._switches, self._passwords = network, switches, passwords
        self._turn = turn

    async def at(self, target: Target, number: int, heard: Heard | None) -> DeviceRead:
        """Look at a device; ``heard`` is what a search told of it."""
        with contextlib.closing(Http(target.certificate)) as http:
            return await self.over(http, target, number, heard)

    async def over(self, http: Http, target: Target, number: int, heard: Heard | None) -> DeviceRead:
        """The same, over connections that are given; what a device answers never ends the check of the others."""
        try:
            return await self._looked_at(target, number, heard, http)
        except Exception as error:  # noqa: BLE001  (whatever one device makes of the readers is that device's own trouble)
            trouble = f"Its answer cannot be read ({type(error).__name__})."
            return DeviceRead(device=target.device, address=address_text(number), trouble=trouble)

    def _user(self, target: Target, number: int) -> tuple[User | None, bool]:
        """The user that logs in, and whether with the make's default password: so where no other is noted, and at the make's
        default address, where a device has had no other yet."""
        if not self._switches.log_in:
            return None, False
        name, default = target.profile.user_name, target.profile.default_password
        if self._switches.first_addresses and default and address_text(number) == target.profile.first_address:
            return User(name, default), True
        password = self._passwords.get(target.device, self._network.site_password)
        if password is not None:
            return User(name, password), False
        if self._switches.default_passwords and default:
            return User(name, default), True
        return None, False

    async def _looked_at(self, target: Target, number: int, heard: Heard | None, http: Http) -> DeviceRead:
        user, is_default = self._user(target, number)
        reading = await self._by_open_protocol(target, number, heard, user, http)
        told = reading.told
        may_be_another = bool(reading.other_certificate)
        wants_page = told is None and not may_be_another
        shown = await self._page(target, number, http) if wants_page else page.PageRead(False)
        values: dict[str, Any] = {
            "device": target.device,
            "address": address_text(number),
            "login": login_of(reading, shown),
            "trouble": shown.trouble,
            "told": told,
            "why_not_told": "" if told is not None else reading.why,
            "other_certificate": reading.other_certificate,
        }
        self._read_clock(values, told, shown)
        is_out = may_be_another or values["login"] in ("refused", "locked", "set-up wanted")
        if target.has_streams and self._switches.stream and not is_out:
            await self._read_streams(values, target, number, told, user)
        if is_default:
            values["default_works"] = values["login"] == "in"
        if target.event_port and self._switches.events:
            await self._turn()
            values["events_open"] = await connected(*self._network.reach(number, target.event_port)) == "open"
        return DeviceRead(**values)

    async def _page(self, target: Target, number: int, http: Http) -> page.PageRead:
        host, port = self._network.reach(number, target.profile.http_port)
        await self._turn()
        return await page.look(http, f"http://{host}:{port}/")

    async def _by_open_protocol(
        self, target: Target, number: int, heard: Heard | None, user: User | None, http: Http
    ) -> Reading:
        host, _ = self._network.reach(number, 0)
        starts = [one for url in (heard.urls if heard is not None else ()) if (one := endpoint_of(url)) is not None]
        starts.sort(key=lambda one: one.scheme != "https")
        if target.certificate:
            # Once over TLS, always: over plain HTTP another device could take its place unseen.
            starts = [one for one in starts if one.scheme == "https"]
            starts = starts or [Endpoint("https", self._network.reach(number, TLS_PORT)[1], DEVICE_PATH)]
        elif not starts:
            starts = await self._open_ports(target, number)
        if not starts:
            return Reading(None, why=OPEN_PROTOCOL_OFF)
        wanted = WantedOfProtocol(
            streams=target.has_streams,
            recordings=target.role == "recorder" and self._switches.channels,
            events=self._switches.events,
            only=self._only,
        )
        await self._turn()
        return await read_device(http, host, starts[:4], user, wanted)

    async def _open_ports(self, target: Target, number: int) -> list[Endpoint]:
        found: list[Endpoint] = []
        for scheme, port in dict.fromkeys((("http", target.profile.http_port), *FURTHER_PORTS)):
            host, reached = self._network.reach(number, port)
            await self._turn()
            if await connected(host, reached) == "open":
                found.append(Endpoint(scheme, reached, DEVICE_PATH))
                if target.role not in ("camera", "recorder"):
                    break  # what has a page and is no camera rarely speaks it, and is asked once
        return found

    def _read_clock(self, values: dict[str, Any], told: Told | None, shown: page.PageRead) -> None:
        if not self._switches.clock:
            return
        if told is not None and told.time is not None and told.time.off_s is not None:
            values |= {"clock_off_s": round(told.time.off_s, 1), "clock_by": "open protocol"}
        elif shown.clock_off_s is not None:
            values |= {"clock_off_s": round(shown.clock_off_s, 1), "clock_by": "HTTP"}

    # ---- streams ----------------------------------------------------------------------------------------------------

    async def _read_streams(
        self, values: dict[str, Any], target: Target, number: int, told: Told | None, user: User | None
    ) -> None:
        if user is None and not (told is not None and told.needs_no_login):
            return
        login = DigestLogin(user.name, user.password) if user is not None else None
        streamed = await self._streamed(target, number, told, login)
        values["main"] = streamed.reads[0]
        if len(streamed.reads) > 1:
            values["substream"] = streamed.reads[1]
        if told is None:
            values["login"] = streamed.login if streamed.login != "no answer" else values["login"]
        off_s = streamed.clock_off_s
        known_s = values.get("clock_off_s")
        if self._switches.clock and off_s is not None and (known_s is None or abs(off_s - known_s) < CLOCKS_AGREE_S):
            values |= {"clock_off_s": round(off_s, 3), "clock_by": "RTCP"}

    async def _streamed(self, target: Target, number: int, told: Told | None, login: DigestLogin | None) -> Streamed:
        """Main stream and substream; where the device told their addresses, there, else where its make has them."""
        profile = target.profile
        host, port = self._network.reach(number, profile.rtsp_port)
        planned = [Endpoint("rtsp", port, f"/{path}") for path in (profile.main_stream_path, profile.substream_path)]
        each = told.main_and_sub() if told is not None and told.profiles else (None, None)
        addresses = [endpoint_of(one.address, ("rtsp",)) if one is not None else None for one in each]
        has_own = addresses[0] is not None
        ends = addresses if has_own else planned
        seconds = (self._switches.stream_s, min(self._switches.stream_s, SUBSTREAM_S))
        wanted = [Wanted(one, for_s) for one, for_s in zip(ends, seconds, strict=True) if one is not None]
        if not (self._switches.substream and target.has_substream):
            wanted = wanted[:1]
        return await read_streams(host, login, wanted, self._turn)


def login_of(reading: Reading, shown: page.PageRead) -> Login:
    """How the log-in went, or why there was none."""
    told = reading.told
    if told is None and reading.logged_in != "not tried":
        return reading.logged_in
    if told is None:
        return "no answer" if shown.is_silent else "not tried"
    if told.needs_no_login:
        return "set-up wanted" if told.users == () else "open"
    return reading.logged_in
