"""Constants of the wire: XML namespaces, paths and types as the standards have them."""

from __future__ import annotations

SOAP = "http://www.w3.org/2003/05/soap-envelope"
ADDRESSING = "http://www.w3.org/2005/08/addressing"

_OPEN = "http://www.onvif.org"
SCHEMA = f"{_OPEN}/ver10/schema"
DEVICE = f"{_OPEN}/ver10/device/wsdl"
MEDIA = f"{_OPEN}/ver10/media/wsdl"
MEDIA2 = f"{_OPEN}/ver20/media/wsdl"
IMAGING = f"{_OPEN}/ver20/imaging/wsdl"
ANALYTICS = f"{_OPEN}/ver20/analytics/wsdl"
EVENTS = f"{_OPEN}/ver10/events/wsdl"
RECORDING = f"{_OPEN}/ver10/recording/wsdl"
SEARCH = f"{_OPEN}/ver10/search/wsdl"
REPLAY = f"{_OPEN}/ver10/replay/wsdl"
RECEIVER = f"{_OPEN}/ver10/receiver/wsdl"
RECEIVER_SOURCE = f"{SCHEMA}/Receiver"
"""What the source of a recording job is, where a receiver fetches it."""
NETWORK = f"{_OPEN}/ver10/network/wsdl"
TOPIC_SET = f"{_OPEN}/ver10/topics"
ERRORS = f"{_OPEN}/ver10/error"

NOTIFICATION = "http://docs.oasis-open.org/wsn/b-2"
SUBSCRIPTION = "http://docs.oasis-open.org/wsn/bw-2"
TOPICS = "http://docs.oasis-open.org/wsn/t-1"
CONCRETE_TOPIC = f"{_OPEN}/ver10/tev/topicExpression/ConcreteSet"
CONCRETE_DIALECT = "http://docs.oasis-open.org/wsn/t-1/TopicExpression/Concrete"
ITEM_FILTER = f"{_OPEN}/ver10/tev/messageContentFilter/ItemFilter"

SECURITY = "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-secext-1.0.xsd"
SECURITY_UTILITY = "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-utility-1.0.xsd"
PASSWORD_DIGEST = "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-username-token-profile-1.0#PasswordDigest"
BASE64 = "http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-soap-message-security-1.0#Base64Binary"

SCOPE = "onvif://www.onvif.org"
"""What a scope of the standard begins with: ``SCOPE/name/Yard`` and the like."""

DEVICE_PATH = "/onvif/device_service"
"""Where the standard has the device service of every device; a search may tell another path."""

SERVICES: dict[str, str] = {
    DEVICE: "device",
    MEDIA: "media 1",
    MEDIA2: "media 2",
    IMAGING: "imaging",
    ANALYTICS: "analytics",
    EVENTS: "events",
    RECORDING: "recording",
    SEARCH: "search",
    REPLAY: "replay",
    RECEIVER: "receiver",
}
"""The services that are read, by namespace, in words."""

PREFIXES: dict[str, str] = {
    "tt": SCHEMA,
    "tds": DEVICE,
    "trt": MEDIA,
    "tr2": MEDIA2,
    "timg": IMAGING,
    "tan": ANALYTICS,
    "tev": EVENTS,
    "trc": RECORDING,
    "tse": SEARCH,
    "trp": REPLAY,
    "trv": RECEIVER,
    "wsnt": NOTIFICATION,
    "wstop": TOPICS,
    "wsa": ADDRESSING,
    "ter": ERRORS,
    "tns1": TOPIC_SET,
}
"""The prefixes that requests and answers are written with."""
