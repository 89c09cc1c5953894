"""Asking a stand-in's services without a socket."""

import asyncio

from eager_lens.core.assess.assessment import assess
from eager_lens.core.virtual_site.commissioned import commissioned
from eager_lens.core.virtual_site.faults import inject_by_name
from eager_lens.core.virtual_site.stand_in import described, stand_in_password
from eager_lens.onsite.open_protocol.names import PREFIXES, SERVICES
from eager_lens.onsite.open_protocol.soap import envelope
from eager_lens.onsite.open_protocol.user_token import token_header
from eager_lens.onsite.stand_ins.device import Device
from eager_lens.onsite.stand_ins.open_protocol import server
from eager_lens.onsite.stand_ins.open_protocol.state import path_of
from eager_lens.onsite.stand_ins.places import OnLoopback
from eager_lens.onsite.stand_ins.web import Asked

USER, PASSWORD = "installer", "Rehearse-1"
PREFIX = {namespace: prefix for prefix, namespace in PREFIXES.items()}

INSIDE = {
    "GetServices": "<tds:IncludeCapability>false</tds:IncludeCapability>",
    "GetProfile": "<trt:ProfileToken>profile1</trt:ProfileToken>",
    "GetVideoSourceConfiguration": "<trt:ConfigurationToken>picture-settings</trt:ConfigurationToken>",
    "GetVideoEncoderConfiguration": "<trt:ConfigurationToken>encoder1</trt:ConfigurationToken>",
    "GetStreamUri": "<trt:ProfileToken>profile1</trt:ProfileToken>",
    "GetRecordingJobState": "<trc:JobToken>job1</trc:JobToken>",
    "GetRecordingInformation": "<tse:RecordingToken>recording1</tse:RecordingToken>",
    "GetReplayUri": "<trp:RecordingToken>recording1</trp:RecordingToken>",
    "GetRecordingSearchResults": "<tse:SearchToken>all</tse:SearchToken>",
}
"""What questions are asked with, where they need anything."""


def stand_in_devices(job, *faults):
    """The stand-ins of a job as devices that serve nothing yet, by id."""
    site = commissioned(assess(job))
    inject_by_name(site, faults)
    found = described(site, stand_in_password(PASSWORD, {})).stand_ins
    return {one.id: Device(one, OnLoopback(one), None) for one in found if one.role != "phone"}


def asked(namespace, question, inside="", login=True, headers=None):
    """A question as it comes in."""
    prefix = PREFIX[namespace]
    header = token_header(USER, PASSWORD) if login else ""
    body = envelope(f"<{prefix}:{question}>{inside}</{prefix}:{question}>", header)
    return Asked("POST", path_of(namespace), headers or {}, body, "127.0.0.1")


def answer_of(device, namespace, question, **how):
    """The answer of a device to a question."""
    how.setdefault("inside", INSIDE.get(question, ""))
    return asyncio.run(device.services.answer(asked(namespace, question, **how)))


def every_question(device):
    """All questions about what it is, or holds, that a stand-in answers: service and name."""
    for namespace in device.services._served.services:
        for question in server.SERVICES[namespace]:
            if question.startswith(("Get", "Find")):
                yield namespace, question


__all__ = ["PASSWORD", "SERVICES", "USER", "answer_of", "asked", "every_question", "stand_in_devices"]
