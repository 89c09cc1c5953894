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
HEIGHT = "At height: not alone, ladder secured. Housings may be hot; keep clear of traffic and of live parts."

ACCEPTANCE_TESTS: tuple[AcceptanceTest, ...] = (
    AcceptanceTest(
        "picture",
        "Live picture",
        ("camera",),
        "The picture is there, sharp, aimed and the right way up.",
        "what is seen",
        caution=HEIGHT,
    ),
    AcceptanceTest(
        "night",
        "Night picture",
        ("camera",),
        "After dark, lamps as at night, infrared on: the subject can be told, and nothing near the lens shines back.",
        "what can be told",
        caution="Dark site: a second person, a lamp, and nobody on a ladder.",
    ),
    AcceptanceTest(
        "density",
        "Pixel density",
        ("camera",),
        "Mark a person or a plate of known size on a picture, at the target's distance: so many pixels cover a metre.",
        "what was marked",
        "px/m",
    ),
    AcceptanceTest(
        "stream",
        "Stream",
        ("camera",),
        "It opens with the device's own password, at the planned codec, resolution and frame rate.",
        "what is sent",
    ),
    AcceptanceTest(
        "clock",
        "Clock offset",
        ("camera", "recorder"),
        "Hold its time against a clock that is right, such as a telephone's; ahead is positive.",
        "read against what",
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
        "Walk through the view where people will; the motion rule catches it. The Walk test view calls the walks.",
        "how many of the walks, by day or by night",
        "%",
        caution="Walk where people walk: not on the track, the road or near machines that run.",
    ),
    AcceptanceTest(
        "chain",
        "Motion recorded",
        ("camera",),
        "Walk once: the recorder marks the event, records from before it, and the clip is found by search.",
        "the clip's time and length",
    ),
    AcceptanceTest(
        "power",
        "Power drawn",
        ("camera",),
        "Read it at the switch's port, or with a meter in the lead: at night, with infrared and heater on.",
        "where it was read",
        "W",
        caution="Mains work belongs to licensed people.",
    ),
    AcceptanceTest(
        "voltage",
        "Voltage at the device",
        ("camera",),
        "Measure at the camera's end of its lead while it draws its full power.",
        "the meter",
        "V",
        caution="Low voltage only. What is joined to the mains belongs to licensed people.",
    ),
    AcceptanceTest(
        "link",
        "Link speed",
        ("camera",),
        "Read the speed of the link at the switch's port, or by the colour of its light.",
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
        caution="On a roof or mast: secured, never alone, not in wind or thunder. Stand clear of an antenna that sends.",
    ),
    AcceptanceTest(
        "label",
        "Label",
        _DEVICES,
        "Name, address and MAC address on the device are those of the plan.",
        "the last four digits",
    ),
    AcceptanceTest(
        "credentials",
        "Credentials",
        _DEVICES,
        "The default password opens nothing any more, and accounts that nobody needs are off.",
        "which account was tried",
    ),
    AcceptanceTest(
        "drives",
        "Drives healthy",
        ("recorder",),
        "The recorder calls every drive healthy: no reallocated or pending sectors, none missing, none too warm.",
        "the warmest drive, °C",
    ),
    AcceptanceTest(
        "days",
        "Days kept",
        ("recorder",),
        "Note how full the drives are on several days; the days that they will hold follow from that.",
        "from how many readings",
        "days",
    ),
    AcceptanceTest(
        "power-cut",
        "After a power cut",
        ("recorder",),
        "Cut its power, wait a minute, give it back: every channel records again by itself.",
        "minutes until the last channel",
        caution="Ask first who needs the recording now. Pull a plug; open nothing that is live.",
    ),
    AcceptanceTest(
        "restart",
        "After a restart",
        ("router", "switch"),
        "Take its power away and give it back: every camera behind it is recorded again by itself.",
        "minutes until the last camera",
        caution="Ask first what else hangs on it: alarms, tills, telephones.",
    ),
    AcceptanceTest(
        "remote",
        "Remote viewing",
        (SITE,),
        "From outside, by relay service or VPN: a live picture and a recorded clip. Open router ports are the last resort.",
        "from where, by which way",
    ),
    AcceptanceTest(
        "shown",
        "Customer shown",
        (SITE,),
        "Somebody of the customer's finds a clip by its time and exports it, without help.",
        "who",
    ),
    AcceptanceTest(
        "signs", "Signs up", (SITE,), "The signs about recording are up at every way in.", "at how many ways in"
    ),
)
"""In the order in which they are made: at the device, at the recorder, and last for the whole site."""

_BY_ID = {test.id: test for test in ACCEPTANCE_TESTS}


def acceptance_test(test_id: str) -> AcceptanceTest | None:
    """The test of this id; None for one that this program does not know."""
    return _BY_ID.get(test_id)
