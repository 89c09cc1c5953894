"""What a recorder stand-in lets others set: receivers, recordings, and the jobs that join them, which make a channel.

The log-in at a camera stands in the address of its stream, as recorders take it; it is told to nobody again.
"""

from __future__ import annotations

import contextlib
from urllib.parse import unquote, urlsplit
from xml.etree.ElementTree import Element

from eager_lens.core.addressing.ipv4 import address_number
from eager_lens.core.errors import RefusedInput
from eager_lens.core.virtual_site.stand_in import ChannelSet
from eager_lens.onsite.open_protocol.endpoints import USUAL_PORTS
from eager_lens.onsite.open_protocol.xml import child, children, text
from eager_lens.onsite.stand_ins.fetching import Channel
from eager_lens.onsite.stand_ins.open_protocol.state import Answering, Served
from eager_lens.onsite.stand_ins.open_protocol.writing import Refusal, each, tag, words

MOST_RECEIVERS = 1024


def create_receiver(served: Served, asked: Element) -> str:
    url = text(asked, "Configuration", "MediaUri")
    _channel_at(url, 0, "")
    begun = served.begun
    if len(begun.receivers) >= MOST_RECEIVERS:
        raise Refusal("no more receivers", "Action", "MaxReceivers", code="Receiver")
    token = _free("receiver", {*begun.receivers, *(f"receiver{number}" for number in served.channels)})
    begun.receivers[token] = url
    setup = tag("tt:StreamSetup", words("tt:Stream", "RTP-Unicast"), tag("tt:Transport", words("tt:Protocol", "RTSP")))
    told = tag("tt:Configuration", each("tt", {"Mode": "AlwaysConnect", "MediaUri": _without_login(url)}), setup)
    return tag("trv:Receiver", words("tt:Token", token), told)


def create_recording(served: Served, asked: Element) -> str:
    name = text(asked, "RecordingConfiguration", "Source", "Name")
    begun, most = served.begun, served.stand_in.most_channels
    if len(served.channels) + len(begun.recordings) >= most:
        raise Refusal("no more recordings", "Action", "MaxRecordings", code="Receiver")
    token = _free("recording", {*begun.recordings, *(f"recording{number}" for number in served.channels)})
    begun.recordings[token] = name
    return words("trc:RecordingToken", token)


def create_job(served: Served, asked: Element) -> str:
    """Join a recording with a receiver: from now on it is a channel."""
    begun = served.begun
    settings = child(asked, "JobConfiguration")
    token = text(settings, "RecordingToken")
    source = next(iter(children(settings, "Source")), None)
    receiver = text(source, "SourceToken", "Token")
    if token not in begun.recordings or receiver not in begun.receivers:
        raise Refusal("there is no such recording or receiver", "InvalidArgVal", "NoRecording")
    number = int(token.removeprefix("recording"))
    channel = _channel_at(begun.receivers.pop(receiver), number, begun.recordings.pop(token))
    served.register(number, Channel(channel))
    inside = each("tt", {"RecordingToken": token, "Mode": "Active", "Priority": 1})
    return words("trc:JobToken", f"job{number}") + tag("trc:JobConfiguration", inside)


def delete_receiver(served: Served, asked: Element) -> str:
    if served.begun.receivers.pop(text(asked, "ReceiverToken"), None) is None:
        raise Refusal("there is no such receiver", "InvalidArgVal", "UnknownToken")
    return ""


def delete_recording(served: Served, asked: Element) -> str:
    if served.begun.recordings.pop(text(asked, "RecordingToken"), None) is None:
        raise Refusal("it records", "Action", "CannotDelete", code="Receiver")
    return ""


def _free(start: str, taken: set[str]) -> str:
    return next(f"{start}{at}" for at in range(1, MOST_RECEIVERS * 2) if f"{start}{at}" not in taken)


def _channel_at(url: str, number: int, name: str) -> ChannelSet:
    with contextlib.suppress(ValueError, RefusedInput):
        parts = urlsplit(url)
        if parts.scheme == "rtsp" and parts.hostname:
            login = (unquote(parts.username or ""), unquote(parts.password or ""))
            port, path = parts.port or USUAL_PORTS["rtsp"], parts.path.lstrip("/")
            return ChannelSet(number, name, address_number(parts.hostname), *login, path, port)
    raise Refusal("no address of a stream", "InvalidArgVal", "BadConfiguration")


def _without_login(url: str) -> str:
    parts = urlsplit(url)
    return parts._replace(netloc=parts.netloc.rpartition("@")[2]).geturl()


RECORDING: dict[str, Answering] = {
    "CreateRecording": create_recording,
    "CreateRecordingJob": create_job,
    "DeleteRecording": delete_recording,
}
RECEIVING: dict[str, Answering] = {"CreateReceiver": create_receiver, "DeleteReceiver": delete_receiver}
