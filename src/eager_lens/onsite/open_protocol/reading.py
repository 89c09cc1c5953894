"""Reading one device: service after service, as far as it answers, with what was not read and why."""

from __future__ import annotations

import asyncio
import contextlib
import time
from collections.abc import Sequence
from typing import Literal, NamedTuple
from xml.etree.ElementTree import Element
from xml.sax.saxutils import escape

from eager_lens.core.plain_text import cleaned
from eager_lens.core.site_check.told import MotionTold, NotRead, ProfileTold, RecordingTold, TimeTold, Told
from eager_lens.onsite.bounded_http import Http
from eager_lens.onsite.open_protocol import device_service, media_service, picture_services, recorder_services
from eager_lens.onsite.open_protocol.conversation import Conversation, LoggedIn, NotTold, User
from eager_lens.onsite.open_protocol.endpoints import Endpoint, endpoint_of
from eager_lens.onsite.open_protocol.names import (
    ANALYTICS,
    DEVICE,
    EVENTS,
    IMAGING,
    MEDIA,
    MEDIA2,
    RECEIVER,
    RECORDING,
    REPLAY,
    SEARCH,
    SERVICES,
    SUBSCRIPTION,
)
from eager_lens.onsite.open_protocol.opened import services_at
from eager_lens.onsite.open_protocol.xml import text

READ_S = 30.0
MOST_IN_DEPTH = 3
"""Of so many profiles address and options are asked for."""
MOST_STATES = 256
MOST_LOST = 2
"""After so many questions without any answer no more are asked: a device that is gone would take the time of all of them."""
PULL_S = 1.0
SEARCH_TRIES = 5


Part = Literal["network", "time server", "name", "users", "streams", "text", "motion", "channels"]


class Wanted(NamedTuple):
    """What is read besides who it is. ``only``: no more than these parts of it; None: all."""

    streams: bool = True
    recordings: bool = False
    events: bool = True
    only: frozenset[Part] | None = None

    def has(self, *parts: Part) -> bool:
        """Whether any of some parts is to be read."""
        return self.only is None or any(part in self.only for part in parts)


class Reading(NamedTuple):
    """What came of it. ``told`` is None where the device does not speak the open protocol there; ``why`` says so."""

    told: Told | None
    logged_in: LoggedIn = "not tried"
    why: str = ""
    other_certificate: str = ""


async def read_device(
    http: Http,
    host: str,
    starts: Sequence[Endpoint],
    user: User | None,
    wanted: Wanted,
) -> Reading:
    """Read a device at the first of some endpoints that answers.

    Args:
        starts: where its device service may be.
    """
    why = "nothing there speaks it"
    for start in starts:
        talk = Conversation(http, host, user)
        reader = _Reader(talk, start, wanted)
        try:
            async with asyncio.timeout(READ_S):
                await reader.read()
        except NotTold as error:
            if talk.shows_another_certificate:
                return Reading(None, "not tried", str(error), talk.certificate)
            if talk.logged_in in ("refused", "locked", "plain text"):
                return Reading(None, talk.logged_in, str(error))  # a second try elsewhere may lock the account
            why = str(error)
            continue
        except TimeoutError:
            if reader.time is None:
                why = "it took too long"
                continue
            reader.missed("the rest", f"reading took longer than {READ_S:g} s")
        return Reading(reader.told(), talk.logged_in)
    return Reading(None, "not tried", why)


class _Reader:
    """One reading under way."""

    def __init__(self, talk: Conversation, start: Endpoint, wanted: Wanted) -> None:
        self._talk, self._start, self._wanted = talk, start, wanted
        self.time: TimeTold | None = None
        self._services: dict[str, Endpoint] = {DEVICE: start}
        self._values: dict[str, object] = {}
        self._not_read: list[NotRead] = []
        self._notes: list[str] = []
        self._tokens = media_service.Tokens()
        self._lost = 0

    def told(self) -> Told:
        """All that it told."""
        names = (SERVICES[namespace] for namespace in self._services)
        return Told(
            port=self._start.port,
            is_secure=self._start.scheme == "https",
            path=self._start.path,
            certificate=self._talk.certificate,
            services=tuple(names),
            needs_no_login=not self._talk.is_asked_for and "identity" in self._values,
            time=self.time,
            not_read=tuple(self._not_read[:32]),
            notes=tuple(dict.fromkeys(cleaned(note)[:300] for note in self._notes))[:32],
            **self._values,
        )

    def missed(self, what: str, why: str) -> None:
        """Note what was not read."""
        self._not_read.append(NotRead(what=what, why=cleaned(why)[:300]))

    async def read(self) -> None:
        """Read it.

        Raises:
            NotTold: when it does not speak the open protocol there.
        """
        await self._read_time()
        try:
            await self._read_rest()
        except NotTold as error:
            self.missed("the rest", str(error))

    async def _read_rest(self) -> None:
        self._services = await services_at(self._talk, self._start, self._notes)
        identity = await self._part("who it is", DEVICE, "tds:GetDeviceInformation")
        if identity is None and self._talk.logged_in != "in" and self._talk.is_asked_for:
            return  # it tells nothing more to somebody who is not let in
        if identity is not None:
            self._values["identity"] = told = device_service.identity_of(identity)
            if not told.serial:
                self._notes.append("it tells no serial")
        if self._wanted.has("network"):
            await self._read_network()
        await self._read_rest_of_device()
        if self._wanted.streams and self._wanted.has("streams", "text", "motion"):
            await self._read_media()
        if self._wanted.recordings and self._wanted.has("channels"):
            await self._read_recordings()

    async def _part(self, what: str, service: str, question: str, inside: str = "") -> Element | None:
        """An answer; None where there is none, which is noted.

        Raises:
            NotTold: when the device answers no more.
        """
        endpoint = self._services.get(service)
        if endpoint is None:
            return None
        try:
            return await self._talk.ask(endpoint, question, inside)
        except NotTold as error:
            self._lost += not error.goes_on
            if self._talk.logged_in in ("refused", "locked") or self._lost >= MOST_LOST:
                raise
            self.missed(what, str(error))
            if error.not_offered and service != DEVICE:
                self._notes.append(f"it offers a service that does not answer {question.rpartition(':')[2]}")
            return None

    async def _read_time(self) -> None:
        """Its time, before any log-in; where it wants one for that too, the log-in goes by this computer's time."""
        begun_s = time.time()
        try:
            answer = await self._talk.ask(self._start, "tds:GetSystemDateAndTime")
        except NotTold as error:
            if not self._talk.is_asked_for or error.not_offered:
                raise
            # It speaks the protocol, and tells nothing at all without a log-in.
            self.missed("its time", str(error))
            self.time = TimeTold()
            return
        if self._talk.is_asked_for:
            self._notes.append("it tells its time after log-in only")
        self.time = device_service.time_of(answer, begun_s, self._notes)
        self._talk.ahead_s = self.time.off_s

    async def _read_network(self) -> None:
        interfaces = await self._part("its interfaces", DEVICE, "tds:GetNetworkInterfaces")
        names = {
            "GetNetworkDefaultGateway": "its gateway",
            "GetDNS": "its DNS servers",
            "GetHostname": "its host name",
            "GetNetworkProtocols": "its ports",
        }
        parts = {name: await self._part(words, DEVICE, f"tds:{name}") for name, words in names.items()}
        answers = {name: answer for name, answer in parts.items() if answer is not None}
        told = () if interfaces is None else device_service.interfaces_of(interfaces)
        self._values["network"] = device_service.network_of(told, answers)

    async def _read_rest_of_device(self) -> None:
        if self._wanted.has("time server"):
            servers = await self._part("its time servers", DEVICE, "tds:GetNTP")
            if servers is not None and self.time is not None:
                self.time = self.time.model_copy(update={"servers": device_service.time_servers_of(servers)})
        if self._wanted.has("name"):
            scopes = await self._part("its scopes", DEVICE, "tds:GetScopes")
            if scopes is not None:
                self._values["scopes"] = device_service.scopes_of(scopes)
        if self._wanted.has("users"):
            users = await self._part("its users", DEVICE, "tds:GetUsers")
            if users is not None:
                self._values["users"] = device_service.users_of(users)

    # ---- cameras ----------------------------------------------------------------------------------------------------

    async def _read_media(self) -> None:
        profiles: tuple[ProfileTold, ...] = ()
        generation: media_service.Generation = "media 1"
        if MEDIA2 in self._services:
            kinds = "".join(f"<tr2:Type>{kind}</tr2:Type>" for kind in ("VideoSource", "VideoEncoder", "Analytics"))
            answer = await self._part("its profiles by media 2", MEDIA2, "tr2:GetProfiles", kinds)
            profiles = media_service.profiles_of(answer, "media 2", self._tokens) if answer is not None else ()
            generation = "media 2" if profiles else "media 1"
        if not profiles and MEDIA in self._services:
            answer = await self._part("its profiles", MEDIA, "trt:GetProfiles")
            profiles = media_service.profiles_of(answer, "media 1", self._tokens) if answer is not None else ()
        if not profiles:
            return
        self._values["profiles"] = profiles
        in_depth = self._worth_asking(profiles) if self._wanted.has("streams") else []
        completed = {one.token: await self._completed(one, generation) for one in in_depth}
        self._values["profiles"] = tuple(completed.get(one.token, one) for one in profiles)
        if self._wanted.has("text"):
            await self._read_text(profiles[0], generation)
        if self._wanted.has("motion"):
            await self._read_picture(profiles[0])

    async def _read_text(self, first: ProfileTold, generation: media_service.Generation) -> None:
        """What it writes into its picture; many devices offer nothing there, which is no trouble."""
        service, prefix = (MEDIA2, "tr2") if generation == "media 2" else (MEDIA, "trt")
        token = f"<{prefix}:ConfigurationToken>{escape(first.source_settings)}</{prefix}:ConfigurationToken>"
        with contextlib.suppress(NotTold):
            answer = await self._talk.ask(self._services[service], f"{prefix}:GetOSDs", token)
            self._values["shown_text"] = media_service.shown_text_of(answer)

    def _worth_asking(self, profiles: tuple[ProfileTold, ...]) -> list[ProfileTold]:
        """The main stream, the substream, and the first profile, which is what most recorders take."""
        main, sub = Told(profiles=profiles).main_and_sub()
        each = [one for one in (main, sub, *profiles) if one is not None]
        return list({one.token: one for one in each}.values())[:MOST_IN_DEPTH]

    async def _completed(self, one: ProfileTold, generation: media_service.Generation) -> ProfileTold:
        service, prefix = (MEDIA2, "tr2") if generation == "media 2" else (MEDIA, "trt")
        values: dict[str, object] = {}
        question, inside = media_service.stream_question(one.token, generation)
        answer = await self._part(f"the address of {one.name or one.token}", service, question, inside)
        if answer is not None:
            values["address"] = media_service.address_in(answer, generation)
        inside = media_service.tokens_inside(prefix, one.encoder, one.token)
        question = f"{prefix}:GetVideoEncoderConfigurationOptions"
        answer = await self._part(f"what {one.name or one.token} takes", service, question, inside)
        if answer is not None:
            each = media_service.options_of(answer, generation)
            values["options"] = next((told for told in each if told.codec == one.codec), None)
            values["further"] = tuple(told for told in each if told.codec != one.codec)
        question, inside = (
            f"{prefix}:GetSnapshotUri",
            f"<{prefix}:ProfileToken>{escape(one.token)}</{prefix}:ProfileToken>",
        )
        with contextlib.suppress(NotTold):
            answer = await self._talk.ask(self._services[service], question, inside)
            values["snapshot"] = media_service.address_in(answer, generation)
        return one.model_copy(update=values)

    async def _read_picture(self, first: ProfileTold) -> None:
        if IMAGING in self._services and first.source:
            inside = f"<timg:VideoSourceToken>{escape(first.source)}</timg:VideoSourceToken>"
            answer = await self._part("its picture settings", IMAGING, "timg:GetImagingSettings", inside)
            if answer is not None:
                self._values["night"] = picture_services.night_of(answer)
        motion = MotionTold()
        token = self._tokens.analytics.get(first.token, "")
        if ANALYTICS in self._services and token:
            motion = await self._read_rules(token)
        if self._wanted.events and EVENTS in self._services:
            motion = await self._read_events(motion)
        if motion != MotionTold():
            self._values["motion"] = motion

    async def _read_rules(self, token: str) -> MotionTold:
        inside = f"<tan:ConfigurationToken>{escape(token)}</tan:ConfigurationToken>"
        rules = await self._part("its motion rules", ANALYTICS, "tan:GetRules", inside)
        detectors = await self._part("its detectors", ANALYTICS, "tan:GetAnalyticsModules", inside)
        kinds = await self._part("the rules that it takes", ANALYTICS, "tan:GetSupportedRules", inside)
        return MotionTold(
            token=token,
            rules=() if rules is None else picture_services.rules_of(rules, "Rule"),
            detectors=() if detectors is None else picture_services.rules_of(detectors, "AnalyticsModule"),
            kinds=() if kinds is None else picture_services.kinds_of(kinds),
        )

    async def _read_events(self, motion: MotionTold) -> MotionTold:
        """The events about motion that it offers, and what it says now: fetched once, and let go."""
        host, service = self._talk.host, self._services[EVENTS]
        values: dict[str, object] = {}
        try:
            answer = await self._asked(service, "tev:GetEventProperties", "", "EventPortType/GetEventPropertiesRequest")
            values["topics"] = picture_services.topics_of(answer)
            inside = "<tev:InitialTerminationTime>PT60S</tev:InitialTerminationTime>"
            action = "EventPortType/CreatePullPointSubscriptionRequest"
            answer = await self._asked(service, "tev:CreatePullPointSubscription", inside, action)
            told = picture_services.subscription_address(answer)
            point = endpoint_of(told) or service
            inside = f"<tev:Timeout>PT{PULL_S:g}S</tev:Timeout><tev:MessageLimit>50</tev:MessageLimit>"
            action = "PullPointSubscription/PullMessagesRequest"
            answer = await self._asked(point, "tev:PullMessages", inside, action)
            said = [one for one in picture_services.messages_of(answer) if picture_services.is_about_motion(one.topic)]
            values |= {"is_pulled": True, "in_motion": said[-1].in_motion if said else None}
            with contextlib.suppress(NotTold):
                action = f"{SUBSCRIPTION}/SubscriptionManager/UnsubscribeRequest"
                await self._talk.ask(point, "wsnt:Unsubscribe", to=point.url(host), action=action)
        except NotTold as error:
            self.missed("its events", str(error))
            values.setdefault("is_pulled", False)
        return motion.model_copy(update=values)

    async def _asked(self, service: Endpoint, question: str, inside: str, action: str) -> Element:
        return await self._talk.ask(service, question, inside, service.url(self._talk.host), f"{EVENTS}/{action}")

    # ---- recorders --------------------------------------------------------------------------------------------------

    async def _read_recordings(self) -> None:
        if RECORDING not in self._services:
            return
        answer = await self._part("its recordings", RECORDING, "trc:GetRecordings")
        if answer is None:
            return
        recordings = recorder_services.recordings_of(answer)
        answer = await self._part("its recording jobs", RECORDING, "trc:GetRecordingJobs")
        most_states = MOST_STATES if self._wanted.only is None else 0
        jobs = {} if answer is None else recorder_services.jobs_of(answer)
        answer = await self._part("its receivers", RECEIVER, "trv:GetReceivers")
        receivers = {} if answer is None else recorder_services.receivers_of(answer)
        held = await self._read_held() if self._wanted.only is None else {}
        found = []
        for at, one in enumerate(recordings):
            job = jobs.get(one.token)
            values: dict[str, object] = {}
            if job is not None:
                # Its mode says only that it is meant to run.
                values["state"] = await self._state(job) if at < most_states else ""
                address = next((receivers[token] for token in job.sources if receivers.get(token)), "")
                values |= {"address": address} if address else {}
            if one.token in held:
                values |= held[one.token]._asdict()
            found.append(one.model_copy(update=values))
        self._values["recordings"] = tuple[RecordingTold, ...](found)
        if found and self._wanted.only is None:
            question, inside = media_service.replay_question(found[0].token)
            answer = await self._part("where it plays back", REPLAY, question, inside)
            self._values["replay"] = text(answer, "Uri")

    async def _state(self, job: recorder_services.JobTold) -> str:
        inside = f"<trc:JobToken>{escape(job.token)}</trc:JobToken>"
        try:
            answer = await self._talk.ask(self._services[RECORDING], "trc:GetRecordingJobState", inside)
        except NotTold:
            return ""
        return recorder_services.state_of(answer)

    async def _read_held(self) -> dict[str, recorder_services.Held]:
        """From when to when pictures are held, by one search for all recordings."""
        found: dict[str, recorder_services.Held] = {}
        inside = "<tse:Scope/><tse:KeepAliveTime>PT30S</tse:KeepAliveTime>"
        begun = await self._part("its oldest pictures", SEARCH, "tse:FindRecordings", inside)
        if begun is None:
            return found
        token = escape(recorder_services.token_of_search(begun))
        for _ in range(SEARCH_TRIES):
            inside = f"<tse:SearchToken>{token}</tse:SearchToken><tse:WaitTime>PT1S</tse:WaitTime>"
            answer = await self._part("its oldest pictures", SEARCH, "tse:GetRecordingSearchResults", inside)
            if answer is None:
                break
            found |= recorder_services.held_of(answer)
            if recorder_services.search_is_over(answer):
                break
        return found
