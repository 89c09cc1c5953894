"""Setting a recorder's channels: a receiver that fetches a stream, a recording, and the job that joins them."""

from __future__ import annotations

import contextlib
from urllib.parse import quote, urlsplit
from xml.sax.saxutils import escape

from eager_lens.onsite.open_protocol.conversation import NotTold, User
from eager_lens.onsite.open_protocol.names import RECEIVER, RECEIVER_SOURCE, RECORDING
from eager_lens.onsite.open_protocol.opened import OpenedDevice
from eager_lens.onsite.open_protocol.xml import text


async def add_channel(device: OpenedDevice, name: str, stream: str, login: User) -> None:
    """Have it record a stream. What was begun is taken back where it does not come to an end, so that a second try finds the
    recorder as the first did.

    Args:
        stream: its address. login: at the camera; it stands in the address that the recorder is told, since the standard has
            no other place for it.
    """
    with_login = _with_login(stream, login)
    receiver = text(await device.ask(RECEIVER, "trv:CreateReceiver", _receiver(with_login)), "Receiver", "Token")
    recording = ""
    try:
        answer = await device.ask(RECORDING, "trc:CreateRecording", _recording(name, stream))
        recording = text(answer, "RecordingToken")
        await device.ask(RECORDING, "trc:CreateRecordingJob", _job(recording, receiver))
    except NotTold:
        with contextlib.suppress(NotTold):
            if recording:
                inside = f"<trc:RecordingToken>{escape(recording)}</trc:RecordingToken>"
                await device.ask(RECORDING, "trc:DeleteRecording", inside)
            inside = f"<trv:ReceiverToken>{escape(receiver)}</trv:ReceiverToken>"
            await device.ask(RECEIVER, "trv:DeleteReceiver", inside)
        raise


def _with_login(stream: str, login: User) -> str:
    parts = urlsplit(stream)
    user = f"{quote(login.name, safe='')}:{quote(login.password, safe='')}"
    return parts._replace(netloc=f"{user}@{parts.netloc}").geturl()


def _receiver(url: str) -> str:
    setup = "<tt:Stream>RTP-Unicast</tt:Stream><tt:Transport><tt:Protocol>RTSP</tt:Protocol></tt:Transport>"
    inside = f"<tt:Mode>AlwaysConnect</tt:Mode><tt:MediaUri>{escape(url)}</tt:MediaUri><tt:StreamSetup>{setup}</tt:StreamSetup>"
    return f"<trv:Configuration>{inside}</trv:Configuration>"


def _recording(name: str, stream: str) -> str:
    source = (
        f"<tt:SourceId>{escape(stream)}</tt:SourceId><tt:Name>{escape(name[:20])}</tt:Name><tt:Location></tt:Location>"
        f"<tt:Description>{escape(name)}</tt:Description><tt:Address>{escape(stream)}</tt:Address>"
    )
    inside = f"<tt:Source>{source}</tt:Source><tt:Content>{escape(name)}</tt:Content>"
    # No time: it keeps what fits, as the plan reckons; erasing after so many days is the recorder's own setting.
    inside += "<tt:MaximumRetentionTime>PT0S</tt:MaximumRetentionTime>"
    return f"<trc:RecordingConfiguration>{inside}</trc:RecordingConfiguration>"


def _job(recording: str, receiver: str) -> str:
    token = f'<tt:SourceToken Type="{RECEIVER_SOURCE}"><tt:Token>{escape(receiver)}</tt:Token></tt:SourceToken>'
    inside = f"<tt:RecordingToken>{escape(recording)}</tt:RecordingToken><tt:Mode>Active</tt:Mode><tt:Priority>1</tt:Priority>"
    return f"<trc:JobConfiguration>{inside}<tt:Source>{token}</tt:Source></trc:JobConfiguration>"
