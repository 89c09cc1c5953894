"""Answers of the open protocol as inputs: those of the stand-ins to every question, and all that reads them."""

from __future__ import annotations

import asyncio
import time
from pathlib import Path
from typing import cast

from tools.trial.windows import demo_job

from eager_lens.core.assess.assessment import assess
from eager_lens.core.virtual_site.commissioned import commissioned
from eager_lens.core.virtual_site.stand_in import described, stand_in_password
from eager_lens.onsite.open_protocol import device_service, media_service, picture_services, recorder_services
from eager_lens.onsite.open_protocol.names import PREFIXES
from eager_lens.onsite.open_protocol.soap import SoapFault, body_of, envelope
from eager_lens.onsite.open_protocol.user_token import token_of
from eager_lens.onsite.open_protocol.xml import Unreadable, parsed
from eager_lens.onsite.stand_ins.device import Cutter, Device
from eager_lens.onsite.stand_ins.open_protocol.server import SERVICES
from eager_lens.onsite.stand_ins.open_protocol.state import path_of
from eager_lens.onsite.stand_ins.places import OnLoopback
from eager_lens.onsite.stand_ins.web import Answer, Asked

INSIDE = "<x:ProfileToken>profile1</x:ProfileToken><x:JobToken>job1</x:JobToken><x:SearchToken>all</x:SearchToken>"


def protocol_answers(folder: Path) -> list[bytes]:
    """What a camera and a recorder of the demo answer to every question that they know."""
    site = commissioned(assess(demo_job()))
    site.units["cam-1"].access.is_set_up = site.units["rec-1"].access.is_set_up = False  # so that nobody has to log in
    found = []
    for one in described(site, stand_in_password("Secret-12", {})).stand_ins:
        if one.id not in ("cam-1", "rec-1"):
            continue
        device = Device(one, OnLoopback(one), cast(Cutter, None))
        for namespace, questions in SERVICES.items():
            prefix = next(short for short, long in PREFIXES.items() if long == namespace)
            for name in questions:
                body = envelope(f'<{prefix}:{name} xmlns:x="urn:x">{INSIDE}</{prefix}:{name}>')
                answer: Answer = asyncio.run(device.services.answer(Asked("POST", path_of(namespace), {}, body, "")))
                found.append(answer.body.encode())
    return found


def read_protocol_answer(path: Path) -> object:
    """As every reader of the check reads an answer, and as a stand-in reads a question: whichever it is."""
    data, notes = path.read_bytes(), list[str]()
    try:
        answer = body_of(data)
    except (Unreadable, SoapFault) as error:
        return str(error)
    tokens = media_service.Tokens()
    interfaces = device_service.interfaces_of(answer)
    return (
        token_of(parsed(data)),
        device_service.time_of(answer, time.time(), notes),
        device_service.services_of(answer, "127.0.0.1", notes),
        device_service.capabilities_of(answer, "127.0.0.1", notes),
        device_service.identity_of(answer),
        device_service.network_of(interfaces, {"GetDNS": answer, "GetNetworkProtocols": answer}),
        device_service.time_servers_of(answer),
        device_service.users_of(answer),
        device_service.scopes_of(answer),
        [media_service.profiles_of(answer, one, tokens) for one in media_service.PARTS],
        [media_service.options_of(answer, one) for one in media_service.PARTS],
        [media_service.address_in(answer, one) for one in media_service.PARTS],
        picture_services.night_of(answer),
        picture_services.rules_of(answer, "Rule"),
        picture_services.rules_of(answer, "AnalyticsModule"),
        picture_services.kinds_of(answer),
        picture_services.topics_of(answer),
        picture_services.messages_of(answer),
        recorder_services.recordings_of(answer),
        recorder_services.jobs_of(answer),
        recorder_services.receivers_of(answer),
        recorder_services.state_of(answer),
        recorder_services.held_of(answer),
    )
