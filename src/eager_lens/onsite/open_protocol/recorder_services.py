"""The services of recorders: recordings with their sources and jobs, receivers, and from when to when pictures are held."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import NamedTuple
from xml.etree.ElementTree import Element

from eager_lens.core.site_check.told import MOST_CHANNELS, RecordingTold
from eager_lens.onsite.open_protocol.endpoints import host_of
from eager_lens.onsite.open_protocol.xml import attribute, child, children, text

UTC_FORM = "%Y-%m-%dT%H:%M:%SZ"


class JobTold(NamedTuple):
    """A recording job: its token, and the receivers or profiles that it records."""

    token: str
    sources: tuple[str, ...]


def recordings_of(answer: Element) -> list[RecordingTold]:
    """The recordings in an answer to GetRecordings, in their order."""
    found = []
    for at, one in enumerate(children(answer, "RecordingItem")[:MOST_CHANNELS], 1):
        source = child(one, "Configuration", "Source")
        token = text(one, "RecordingToken")
        if token:
            name, address = text(source, "Name"), text(source, "Address")
            found.append(RecordingTold(token=token, name=name, channel=at, address=host_of(address) or address[:100]))
    return found


def jobs_of(answer: Element) -> dict[str, JobTold]:
    """By recording its job, out of an answer to GetRecordingJobs."""
    found: dict[str, JobTold] = {}
    for one in children(answer, "JobItem")[:MOST_CHANNELS]:
        settings = child(one, "JobConfiguration")
        sources = tuple(text(part, "SourceToken", "Token") for part in children(settings, "Source")[:8])
        found.setdefault(text(settings, "RecordingToken"), JobTold(text(one, "JobToken"), sources))
    return found


def receivers_of(answer: Element) -> dict[str, str]:
    """By receiver the address that it fetches from, out of an answer to GetReceivers."""
    each = children(answer, "Receivers")[:MOST_CHANNELS]
    return {text(one, "Token"): host_of(text(one, "Configuration", "MediaUri")) for one in each}


def state_of(answer: Element) -> str:
    """The state of a job, out of an answer to GetRecordingJobState."""
    return text(answer, "State", "State")


class Held(NamedTuple):
    """The first and last picture of a recording, UTC; empty where it holds none."""

    oldest: str
    newest: str


def held_of(answer: Element) -> dict[str, Held]:
    """By recording what it holds, out of an answer to GetRecordingSearchResults or GetRecordingInformation."""
    found: dict[str, Held] = {}
    results = child(answer, "ResultList")
    for one in [*children(results, "RecordingInformation"), *children(answer, "RecordingInformation")][:MOST_CHANNELS]:
        found[text(one, "RecordingToken")] = Held(
            moment_of(text(one, "EarliestRecording")), moment_of(text(one, "LatestRecording"))
        )
    return found


def search_is_over(answer: Element) -> bool:
    """Whether a search has told all."""
    return text(answer, "ResultList", "SearchState").lower() == "completed"


def moment_of(written: str) -> str:
    """A moment as readings keep it; empty where it is none. One without a zone counts as UTC."""
    try:
        moment = datetime.fromisoformat(written.replace("Z", "+00:00"))
        moment = moment.replace(tzinfo=UTC) if moment.tzinfo is None else moment.astimezone(UTC)
    except (ValueError, OverflowError):
        return ""
    return moment.strftime(UTC_FORM) if 1990 <= moment.year <= 2200 else ""


def token_of_search(answer: Element) -> str:
    """The token of a search that was begun."""
    return text(answer, "SearchToken") or attribute(answer, "SearchToken")
