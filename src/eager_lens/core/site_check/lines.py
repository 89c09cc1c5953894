"""What a line of a verdict is about, and how grave it is."""

from __future__ import annotations

from enum import StrEnum
from typing import NamedTuple

from eager_lens.core.assess.finding import Severity


class SiteCode(StrEnum):
    """What a line of a verdict is about."""

    SHARED = "two-on-one-address"
    IN_ITS_PLACE = "another-in-its-place"
    CONTRADICTED = "claims-to-be-another"
    ELSEWHERE = "at-another-address"
    NOT_HEARD = "not-heard"
    STRANGER = "stranger"
    BY_ADDRESS = "by-address-alone"
    NOT_REACHED = "subnet-not-reached"
    NOT_COMPARED = "not-compared"
    REFUSED = "password-refused"
    LOCKED = "locked"
    SET_UP = "set-up-wanted"
    NO_LOGIN = "needs-no-login"
    PLAIN_TEXT = "password-in-plain-text"
    DEFAULT_PASSWORD = "default-password"
    CERTIFICATE = "certificate-changed"
    FIRMWARE = "firmware-old"
    PROTOCOL_OFF = "open-protocol-off"
    NO_PAGE = "no-page"
    NO_STREAM = "no-stream"
    STREAM_STOPS = "stream-stops"
    SETTINGS = "settings-differ"
    CAP = "cap-not-set"
    RATE = "rate-higher"
    FEWER_DAYS = "fewer-days"
    SUBSTREAM = "substream"
    NIGHT = "night-settings"
    RULE = "motion-rule-off"
    CLOCK = "clock-off"
    ZONE = "time-zone"
    CHANNEL = "channel-not-receiving"
    EVENT_PORT = "event-port-closed"
    ODD = "odd-answer"


class SiteLine(NamedTuple):
    """One thing about a device: how grave, what, in words."""

    severity: Severity
    code: SiteCode
    words: str
