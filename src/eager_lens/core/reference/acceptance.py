"""The acceptance tests: what is proved on site, on which devices, in which unit, and how it is done."""

from __future__ import annotations

from typing import Literal, NamedTuple

from eager_lens.core.reference.roles import Role

Tested = Literal["site"] | Role
"""What a test is made on: the site as a whole, or a device of a role."""

SITE: Literal["site"] = "site"
"""Stands for the whole site where a test names its device."""


class AcceptanceTest(NamedTuple):
    """One test.

    Attributes:
        id: as in the job file. label: its name. on: what it is made on.
        how: how it is made. value: what to note with it. unit: that of its measured value; empty where nothing is measured.
        caution: what can hurt at it.
    """

    id: str
    label: str
    on: tuple[Tested, ...]
    how: str
    value: str
    unit: str = ""
    caution: str = ""

    @property
    def heading(self) -> str:
        """Its name with its unit."""
        return f"{self.label}, {self.unit}" if self.unit else self.label


_DEVICES: tuple[Tested, ...] = ("router", "switch", "bridge", "recorder", "camera")
HEIGHT = "Work at height: never alone, ladder secured. Housings may be hot; keep clear of traffic and live parts."

ACCEPTANCE_TESTS: tuple[AcceptanceTest, ...] = (
    AcceptanceTest(
        "picture",
        "Live picture",
        ("camera",),
        "The picture is sharp, aimed and the right way up.",
        "what you see",
        caution=HEIGHT,
    ),
    AcceptanceTest(
        "night",
        "Night picture",
        ("camera",),
        "After dark, lamps as usual, infrared on: the subject is recognisable, and nothing near the lens reflects.",
        "what is recognisable",
        caution="Dark site: two persons, a lamp, and nobody on a ladder.",
    ),
    AcceptanceTest(
        "density",
        "Pixel density",
        ("camera",),
        "Mark a person or a plate of known size on a picture, at the target's distance, to get pixels per metre.",
        "what was marked",
        "px/m",
    ),
    AcceptanceTest(
        "stream",
        "Stream",
        ("camera",),
        "It opens with the device's password, at the planned codec, resolution and frame rate.",
        "codec, resolution, frame rate",
    ),
    AcceptanceTest(
        "clock",
        "Clock offset",
        ("camera", "recorder"),
        "Compare its time with a correct clock, such as a telephone's; ahead is positive.",
        "compared with which clock",
        "s",
    ),
    AcceptanceTest(
        "clip",
        "Clip found",
        ("camera",),
        "A recorded clip is found by its time, on the recorder's and your own clock.",
        "the time",
    ),
    AcceptanceTest(
        "motion",
        "Walk test",
        ("camera",),
        "Walk through the view where people will walk; the motion rule detects it. The Walk test view announces each walk.",
        "how many of how many walks, by day or by night",
        "%",
        caution="Do not walk on the track, the road or near running machines.",
    ),
    AcceptanceTest(
        "chain",
        "Motion recorded",
        ("camera",),
        "Walk once: the recorder marks the event, the clip includes the pre-recording, and a search finds it.",
        "the clip's time and length",
    ),
    AcceptanceTest(
        "power",
        "Power drawn",
        ("camera",),
        "Read it at the switch port or with a meter in the lead, at night, with infrared and heater on.",
        "where it was read",
        "W",
        caution="Mains work belongs to a licensed electrician.",
    ),
    AcceptanceTest(
        "voltage",
        "Voltage at the device",
        ("camera",),
        "Measure at the camera's end of its lead while it draws its full power.",
        "which meter",
        "V",
        caution="Low voltage only. Mains work belongs to a licensed electrician.",
    ),
    AcceptanceTest(
        "link",
        "Link speed",
        ("camera",),
        "Read the link speed at the switch port, or by the colour of its light.",
        "where it was read",
        "Mb/s",
    ),
    AcceptanceTest(
        "rssi",
        "RSSI",
        ("bridge",),
        "Read the received signal on the bridge's page, both ends aimed and tightened.",
        "in which weather",
        "dBm",
        caution="On a roof or mast: secured, never alone, not in wind or thunderstorms. Keep clear of a transmitting antenna.",
    ),
    AcceptanceTest(
        "label",
        "Label",
        _DEVICES,
        "Name, IP address and MAC address of the device match the plan.",
        "the last four digits",
    ),
    AcceptanceTest(
        "credentials",
        "Credentials",
        _DEVICES,
        "The default password no longer works, and unneeded accounts are disabled.",
        "which account was tried",
    ),
    AcceptanceTest(
        "drives",
        "Drives healthy",
        ("recorder",),
        "The recorder reports every drive healthy: no reallocated or pending sectors, none missing, none too warm.",
        "the warmest drive, °C",
    ),
    AcceptanceTest(
        "days",
        "Days kept",
        ("recorder",),
        "Note on several days how full the drives are; the days that they will keep follow from that.",
        "number of readings",
        "days",
    ),
    AcceptanceTest(
        "power-cut",
        "After a power cut",
        ("recorder",),
        "Disconnect its power for a minute: afterwards every channel records again by itself.",
        "minutes until the last channel",
        caution="Ask first who needs the recording now. Pull a plug only; open nothing that is live.",
    ),
    AcceptanceTest(
        "restart",
        "After a restart",
        ("router", "switch"),
        "Disconnect and reconnect its power: every camera behind it is recorded again by itself.",
        "minutes until the last camera",
        caution="Ask first what else is connected to it: alarms, tills, telephones.",
    ),
    AcceptanceTest(
        "remote",
        "Remote viewing",
        (SITE,),
        "From outside, by relay service or VPN: a live picture and a recorded clip. Open router ports are the last resort.",
        "from where, by relay or VPN",
    ),
    AcceptanceTest(
        "shown",
        "Customer shown",
        (SITE,),
        "A member of the customer's staff finds a clip by its time and exports it without help.",
        "who",
    ),
    AcceptanceTest(
        "signs", "Signs up", (SITE,), "Signs about recording are up at every entrance.", "number of entrances"
    ),
)
"""In the order in which they are made: at the device, at the recorder, and last for the whole site."""

_BY_ID = {test.id: test for test in ACCEPTANCE_TESTS}


def acceptance_test(test_id: str) -> AcceptanceTest | None:
    """The test of this id; None for one that this program does not know."""
    return _BY_ID.get(test_id)
