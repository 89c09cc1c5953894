"""The services of a recorder stand-in: its recordings with their jobs and receivers, and from when to when they hold pictures."""

from __future__ import annotations

from datetime import UTC, datetime
from xml.etree.ElementTree import Element

from eager_lens.core.addressing.ipv4 import address_text
from eager_lens.core.virtual_site.stand_in import replay_path
from eager_lens.onsite.open_protocol.names import RECEIVER_SOURCE
from eager_lens.onsite.open_protocol.xml import text
from eager_lens.onsite.stand_ins.fetching import Channel
from eager_lens.onsite.stand_ins.open_protocol import recorder_settings
from eager_lens.onsite.stand_ins.open_protocol.state import Answering, Served
from eager_lens.onsite.stand_ins.open_protocol.writing import Refusal, each, tag, words

DAY_S = 86_400.0
LATELY_S = 1.0
SEARCH_TOKEN = "all"


def _each(served: Served) -> list[tuple[int, Channel]]:
    return sorted(served.channels.items())


def _url(channel: Channel) -> str:
    setting = channel.setting
    return f"rtsp://{address_text(setting.address)}:{setting.rtsp_port}/{setting.path}"


def recordings(served: Served, asked: Element) -> str:
    return "".join(
        tag(
            "trc:RecordingItem",
            words("tt:RecordingToken", f"recording{number}"),
            tag(
                "tt:Configuration",
                _source(number, one),
                words("tt:Content", ""),
                words("tt:MaximumRetentionTime", "PT0S"),
            ),
            tag("tt:Tracks", _track()),
        )
        for number, one in _each(served)
    )


def _source(number: int, one: Channel) -> str:
    told = {
        "SourceId": f"channel{number}",
        "Name": one.setting.name or f"Channel {number}",
        "Location": "",
        "Description": "",
    }
    return tag("tt:Source", each("tt", {**told, "Address": _url(one)}))


def _track() -> str:
    settings = tag("tt:Configuration", each("tt", {"TrackType": "Video", "Description": ""}))
    return tag("tt:Track", words("tt:TrackToken", "video"), settings)


def jobs(served: Served, asked: Element) -> str:
    return "".join(
        tag("trc:JobItem", words("tt:JobToken", f"job{number}"), _job(number, "tt:JobConfiguration"))
        for number, _ in _each(served)
    )


def _job(number: int, name: str) -> str:
    source = tag("tt:Source", tag("tt:SourceToken", words("tt:Token", f"receiver{number}"), Type=RECEIVER_SOURCE))
    return tag(name, each("tt", {"RecordingToken": f"recording{number}", "Mode": "Active", "Priority": 1}), source)


def job_state(served: Served, asked: Element) -> str:
    token = text(asked, "JobToken")
    number, channel = _named(served, token, "job")
    state = "Active" if channel.shown == "receiving" else "Error" if channel.shown == "refused" else "Idle"
    source = tag("tt:Sources", _source_state(number, state))
    return tag("trc:State", words("tt:RecordingToken", f"recording{number}"), words("tt:State", state), source)


def _source_state(number: int, state: str) -> str:
    token = tag("tt:SourceToken", words("tt:Token", f"receiver{number}"), Type=RECEIVER_SOURCE)
    track = tag("tt:Track", each("tt", {"SourceTag": "video", "Destination": "video", "State": state}))
    return token + words("tt:State", state) + tag("tt:Tracks", track)


def _named(served: Served, token: str, start: str) -> tuple[int, Channel]:
    number = token.removeprefix(start)
    if not (token.startswith(start) and number.isascii() and number.isdigit() and int(number) in served.channels):
        raise Refusal(f"there is no {start} of that name", "InvalidArgVal", "NoRecording")
    return int(number), served.channels[int(number)]


def receivers(served: Served, asked: Element) -> str:
    found = ""
    for number, one in _each(served):
        transport = tag("tt:Transport", words("tt:Protocol", "RTSP"))
        setup = tag("tt:StreamSetup", words("tt:Stream", "RTP-Unicast"), transport)
        settings = tag("tt:Configuration", each("tt", {"Mode": "AlwaysConnect", "MediaUri": _url(one)}), setup)
        found += tag("trv:Receivers", words("tt:Token", f"receiver{number}"), settings)
    return found


def _held(served: Served, number: int, one: Channel) -> str:
    now_s = served.clock.now_s()
    is_running = one.shown == "receiving"
    oldest_s = now_s - served.stand_in.keeps_days * DAY_S
    first, last = _moment(oldest_s), _moment(now_s - LATELY_S)
    source = _source(number, one)
    track = {"TrackToken": "video", "TrackType": "Video", "Description": "", "DataFrom": first, "DataTo": last}
    status = words("tt:RecordingStatus", "Recording" if is_running else "Stopped")
    moments = each("tt", {"EarliestRecording": first, "LatestRecording": last, "Content": ""})
    return (
        words("tt:RecordingToken", f"recording{number}")
        + source
        + moments
        + tag("tt:Track", each("tt", track))
        + status
    )


def _moment(at_s: float) -> str:
    return datetime.fromtimestamp(at_s, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def find(served: Served, asked: Element) -> str:
    return words("tse:SearchToken", SEARCH_TOKEN)


def found(served: Served, asked: Element) -> str:
    if text(asked, "SearchToken") != SEARCH_TOKEN:
        raise Refusal("there is no such search", "InvalidArgVal", "InvalidToken")
    results = "".join(tag("tt:RecordingInformation", _held(served, number, one)) for number, one in _each(served))
    return tag("tse:ResultList", words("tt:SearchState", "Completed"), results)


def summary(served: Served, asked: Element) -> str:
    now_s = served.clock.now_s()
    moments = {"DataFrom": _moment(now_s - served.stand_in.keeps_days * DAY_S), "DataUntil": _moment(now_s)}
    return tag("tse:Summary", each("tt", {**moments, "NumberRecordings": len(served.channels)}))


def information(served: Served, asked: Element) -> str:
    number, channel = _named(served, text(asked, "RecordingToken"), "recording")
    return tag("tse:RecordingInformation", _held(served, number, channel))


def replay(served: Served, asked: Element) -> str:
    number, _ = _named(served, text(asked, "RecordingToken"), "recording")
    if not any(one.path == replay_path(number) for one in served.stand_in.streams):
        raise Refusal("nothing is recorded there", "InvalidArgVal", "NoRecording")
    return words("trp:Uri", served.stream_url(replay_path(number)))


REPLAY_ANSWERS: dict[str, Answering] = {"GetReplayUri": replay}
RECORDING_ANSWERS: dict[str, Answering] = {
    **recorder_settings.RECORDING,
    "GetRecordings": recordings,
    "GetRecordingJobs": jobs,
    "GetRecordingJobState": job_state,
}
RECEIVER_ANSWERS: dict[str, Answering] = {**recorder_settings.RECEIVING, "GetReceivers": receivers}
SEARCH_ANSWERS: dict[str, Answering] = {
    "FindRecordings": find,
    "GetRecordingSearchResults": found,
    "GetRecordingSummary": summary,
    "GetRecordingInformation": information,
}
