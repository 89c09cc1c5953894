"""The job: everything that the installer decided. Frozen; a change makes a new job (see ``edits``).

Devices are known by an id that never changes; everything that refers to a device, a week or a subnet holds its id. A
reference to something that is not there is no error here: it is a finding.
"""

import itertools
from collections import Counter
from collections.abc import Iterable, Iterator
from datetime import date
from typing import Annotated, Any, Literal, TypeVar

from pydantic import AfterValidator, Field, StringConstraints, model_validator

from eager_lens.core.addressing.ipv4 import address_number, mac_address, subnet_of
from eager_lens.core.clock.zones import zone_named
from eager_lens.core.job.fault_figures import FaultFigure
from eager_lens.core.job.kept_figures import HandedOver
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.job.most import MOST_CAMERAS, MOST_OTHERS
from eager_lens.core.job.prices import Charges, PartPrice
from eager_lens.core.job.proof import Check, FillReading, MountingStep, Snag, Walk
from eager_lens.core.job.rehearsal import Rehearsal, Tick
from eager_lens.core.job.texts import Id, LongText, Text
from eager_lens.core.power.poe import OHM_PER_M_AT_20_C, CableMaterial
from eager_lens.core.radio.link import RATE_MBPS_PER_STREAM
from eager_lens.core.recording.week import DAYS, MINUTES_A_DAY, Day, Span, WeekPlan
from eager_lens.core.recording.year import Dates
from eager_lens.core.reference.device_types import DeviceType, PoeClass, RadioEnd
from eager_lens.core.reference.roles import Role
from eager_lens.core.reference.streams import Codec, Quality
from eager_lens.core.sizing.control import RateControl
from eager_lens.core.sizing.drives import RaidLevel
from eager_lens.core.sizing.rate import Assumed, usual_assumptions
from eager_lens.core.validation import (
    AnySign,
    Count,
    Number,
    Plain,
    Positive,
    Share,
    Whole,
    one_of,
    read_as,
    without_unwritable,
)
from eager_lens.core.values.marks import TriedClip
from eager_lens.core.values.motion_rule import MotionRule
from eager_lens.core.values.weather import Weather


def _address(text: str) -> str:
    if text:
        address_number(text)
    return text


def _cidr(text: str) -> str:
    subnet_of(text)
    return text


def _zone(text: str) -> str:
    zone_named(text)
    return text


Address = Annotated[str, StringConstraints(strict=True), AfterValidator(_address)]
"""A dotted IPv4 address, or empty while there is none."""

Fingerprint = Annotated[str, StringConstraints(strict=True, pattern=r"^([0-9a-f]{64})?$")]
MacAddress = Annotated[str, StringConstraints(strict=True), AfterValidator(mac_address)]
"""A MAC address as ``02:4c:00:00:00:1f``, or empty; other usual spellings are turned into this one."""

Cidr = Annotated[str, StringConstraints(strict=True), AfterValidator(_cidr)]

# Upper bounds below keep arithmetic finite and files readable; they are far above anything sold, so no real job meets them.
PictureSide = Annotated[Count, Field(ge=16, le=20_000)]
Fps = Annotated[Positive, Field(le=240)]
Seconds = Annotated[Number, Field(le=86_400)]
Metres = Annotated[Number, Field(le=100_000)]
Mbps = Annotated[Positive, Field(le=1_000_000)]
Watts = Annotated[Number, Field(le=100_000)]
PortNumber = Annotated[Whole, Field(le=1024)]
Gauge = Annotated[Whole, one_of(*OHM_PER_M_AT_20_C)]

PowerInput = Literal["12 V DC", "24 V DC", "24 V AC", "48 V DC"]
"""What a power supply gives and a camera's own lead takes. None of them stands in for another."""

WantedPurpose = Literal["", "inspect", "identify", "recognise", "observe", "detect", "monitor"]

Attachment = Literal["LAN", "recorder PoE ports", "camera interface", "bridged PoE ports"]
"""How a recorder's cameras are connected: on switches of the LAN; on the recorder's own PoE ports; on switches of their own
at its camera interface; or on its PoE ports that it bridges like a plain switch. Only the last passes other traffic."""


Thin = Literal["nothing", "key frames", "substream"]
"""What a recorder keeps while there is nothing to record in full."""

AddressAssignment = Literal["static", "static from a lease", "DHCP reservation", "by the recorder", "unmanaged"]
"""How a device came to its address: typed in outside the DHCP pool; leased once and then fixed on the device; leased for
ever by a DHCP reservation in the router; assigned by the recorder to the cameras on its own PoE ports; or it has none, as an
unmanaged switch or an extender."""


class Device(Plain):
    """What every device has: identity, place, label, and where it stands in the network.

    ``certificate_sha256``: of the certificate that it showed over TLS when it was taken over; empty: none is remembered.
    """

    id: Id
    name: Annotated[Text, Field(min_length=1)]
    place: Text = ""
    make: Text = ""
    mac_address: MacAddress = ""
    serial: Text = ""
    firmware: Text = ""
    certificate_sha256: Fingerprint = ""
    subnet: Text = ""
    address: Address = ""
    address_assignment: AddressAssignment = "static"
    note: LongText = ""

    @property
    def wants_address(self) -> bool:
        """Whether it has an address, or should."""
        return self.address_assignment != "unmanaged" or bool(self.address)


# Ids, not objects: a job stays a tree, so copying, comparing and undo need no graph walk.
class Registration(Plain):
    """A camera's place on a recorder: the recorder's id and the channel, from 1."""

    recorder: Id
    channel: Annotated[Count, Field(le=1024)]


class SeenPicture(Plain):
    """What a still of the real camera shows: the picture's width, and its properties in levels of luma."""

    source: Text
    width_px: PictureSide
    detail_log: Annotated[Number, Field(le=9)]
    flat_share: Share
    noise_sigma: Annotated[Number, Field(le=128)]


class StreamSettings(Plain):
    """What a stream's rate depends on, but for the view."""

    width_px: PictureSide = 1920
    height_px: PictureSide = 1080
    fps: Fps = 12
    codec: Codec = "h265"
    key_frame_s: Annotated[Positive, Field(le=600)] = 2
    quality: Quality = "medium"
    rate_control: RateControl = "VBR"
    cap_mbps: Annotated[Positive, Field(le=10_000)] | None = None


MeasuredWhen = Literal["", "day", "night", "day and night"]
MEASURED_WHEN: dict[MeasuredWhen, str] = {
    "": "not stated",
    "day": "by day",
    "night": "by night",
    "day and night": "over day and night",
}
"""When a bit rate was read off the running camera, and its words. As long as nobody says, it is entered, not measured."""


Housing = Literal["", "dome", "bullet", "box"]
FixedTo = Literal["", "wall", "corner", "soffit", "ceiling", "pole"]
"""What a camera is fixed to; empty: not said."""


class Camera(StreamSettings, Device):
    """A camera, its main stream, and when it records.

    Attributes:
        measured_mbps: a bit rate read from the real device; where given, it replaces the estimated one. A clip gives its
            range too (8 of 10), and its name in ``measured_from``. ``measured_when``: by day or by night; while that is not
            said, the rate is entered and may be a data sheet's. ``measured_min``: over how many minutes; None while that is
            not said. ``measured_at``: the settings at which it was read, where
            the camera has been set otherwise since.
        seen: what a still of it shows; the estimated bit rate then follows from that, and from its scene's motion.
        cap_assumed: its maximum bit rate is the usual one for its settings and scene, and follows them, until somebody types one.
        card_gb: a memory card in the camera (0: none) that may be written ``card_written_tb`` in its life (0: not known).
        substream_mbps: its second, smaller stream.
        schedule: the id of its recording schedule.
        events_per_h, event_s: motion events an hour and how long they last; ``events_from`` says what they were measured
            on (empty: they are estimated). ``inputs_per_h``: alarms at its input.
        pre_recording_s, post_recording_s: how long before and after motion is recorded; ``input_pre_recording_s`` and
            ``input_post_recording_s`` around an alarm, where they differ.
        kept_between_events, kept_when_off: what is recorded between events, and in hours that are off.
        cable_m: the run of cable to the camera, as far as it is known.
        surge_protected: surge protection and earthing were settled.
        poe_class: None for a camera that is not powered over its cable. ``power_w``: the most it draws, at night with
            infrared and heater. ``power_input``: what its own lead takes where it has a power supply.
        housing, fixed_to: its shape and its place, by which the mounting list differs.
        target_m: how far off, over the ground, the target is, and ``purpose`` what for. ``importance`` (1 to 5) and
            ``least_fps`` say what the search for the best picture may take from it.
        motion_rule_on: its own motion rule is on. ``motion_rule``: how it is set; ``tried_in``, ``tried_weather``,
            ``tried_clip``: the drawn scene that it was tried in, the weather there if not the scene's own, its own clip.
        event_target, event_tcp_port: where it sends its event messages; empty: to its recorder's interface on the
            camera's network; 0: the TCP port that the maker uses.
    """

    scene: Id = "store"
    measured_mbps: Annotated[Positive, Field(le=10_000)] | None = None
    measured_low_mbps: Annotated[Positive, Field(le=10_000)] | None = None
    measured_high_mbps: Annotated[Positive, Field(le=10_000)] | None = None
    measured_from: Text = ""
    measured_when: MeasuredWhen = ""
    measured_min: Annotated[Positive, Field(le=1e6)] | None = None
    # Set only when the camera has other settings now; None means "at the present settings".
    measured_at: StreamSettings | None = None
    seen: SeenPicture | None = None
    cap_assumed: bool = False
    card_gb: Annotated[Number, Field(le=1e6)] = 0
    card_written_tb: Annotated[Number, Field(le=1e6)] = 0
    schedule: Text = ""
    events_per_h: Annotated[Number, Field(le=100_000)] = 6
    event_s: Seconds = 20
    pre_recording_s: Seconds = 5
    post_recording_s: Seconds = 15
    events_from: Text = ""
    inputs_per_h: Annotated[Number, Field(le=100_000)] = 1
    input_pre_recording_s: Seconds | None = None
    input_post_recording_s: Seconds | None = None
    kept_between_events: Thin = "nothing"
    kept_when_off: Thin = "nothing"
    substream_mbps: Annotated[Number, Field(le=10_000)] = 0.5
    cable_m: Metres | None = None
    awg: Gauge = 24
    cable_material: CableMaterial = "copper"
    outdoor: bool = False
    surge_protected: bool = False
    poe_class: PoeClass | None = 3
    power_w: Annotated[Number, Field(le=1000)] = 8
    power_input: PowerInput = "12 V DC"
    sensor_width_mm: Annotated[Positive, Field(le=100)] = 5.4
    focal_mm: Annotated[Positive, Field(le=2000)] = 4
    mount_height_m: Annotated[Number, Field(le=500)] = 3
    housing: Housing = ""
    fixed_to: FixedTo = ""
    target_m: Annotated[Positive, Field(le=10_000)] | None = None
    purpose: WantedPurpose = ""
    importance: Annotated[Count, Field(le=5)] = 3
    least_fps: Fps = 5
    motion_rule_on: bool = True
    motion_rule: MotionRule | None = None
    tried_in: Text = ""
    tried_weather: Weather | None = None
    tried_clip: TriedClip | None = None
    event_target: Address = ""
    event_tcp_port: Annotated[Whole, Field(le=65_535)] = 0
    # Empty: not registered. Two entries: recorded twice, which is allowed and counted twice.
    registered: tuple[Registration, ...] = ()

    @property
    def megapixels(self) -> float:
        """Picture size in millions of pixels."""
        return self.width_px * self.height_px / 1e6


class PortDevice(Device):
    """A device with ports: how many in all, those that give power, their speed, and the power.

    The PoE ports are those with the lowest numbers. ``poe_port_class`` is the highest class that they give, ``own_w``
    what the device takes for itself.
    """

    ports: PortNumber = 10
    poe_ports: PortNumber = 8
    port_mbps: Mbps = 1000
    budget_w: Watts = 120
    poe_port_class: PoeClass = 4
    own_w: Watts = 10


class Recorder(PortDevice):
    """A recorder, its drives, its limits, and its ports.

    Attributes:
        attachment: how its cameras are connected.
        camera_interface_subnet, camera_interface_address: its second interface, where its cameras are on a separate network.
        takes_events: it accepts event messages, at ``event_tcp_port`` (0: the one that the maker uses).
        pre_recording_memory_mb: its memory (10^6 bytes) for pre-recording; None: not known.
        fetches_substreams: it fetches the substreams besides the main streams, for many-picture views.
        drive_rated_tb_per_year: what a drive may be written a year. ``drive_failures_per_year``: the share of such drives
            that fail in a year. ``rebuild_mb_per_s``: how fast a replaced one is filled again beside recording.
        largest_drive_tb: the largest drive that it takes; None: not known. ``own_w`` is without its drives (``DRIVE_W``).
        erase_after_days: it erases what is older, however much room there is; None: it keeps what fits.
    """

    ports: PortNumber = 1
    poe_ports: PortNumber = 0
    budget_w: Watts = 0
    own_w: Watts = 30
    attachment: Attachment = "LAN"
    camera_interface_subnet: Text = ""
    camera_interface_address: Address = ""
    takes_events: bool = True
    pre_recording_memory_mb: Annotated[Positive, Field(le=1e6)] | None = None
    event_tcp_port: Annotated[Whole, Field(le=65_535)] = 0
    fetches_substreams: bool = False
    channels: Annotated[Count, Field(le=1024)] = 16
    incoming_limit_mbps: Mbps = 160
    outgoing_limit_mbps: Mbps = 160
    largest_megapixels: Annotated[Positive, Field(le=400)] = 8.3
    codecs: tuple[Codec, ...] = ("h264", "h265", "mjpeg")
    bays: Annotated[Whole, Field(le=1000)] = 2
    drives: Annotated[Whole, Field(le=1000)] = 2
    drive_tb: Annotated[Number, Field(le=10_000)] = 8
    largest_drive_tb: Annotated[Positive, Field(le=10_000)] | None = None
    raid_level: RaidLevel = "span"
    hot_spares: Annotated[Whole, Field(le=1000)] = 0
    reserve_share: Annotated[Share, Field(lt=1)] = 0.05
    erase_after_days: Annotated[Positive, Field(le=36_500)] | None = None
    drive_rated_tb_per_year: Annotated[Positive, Field(le=100_000)] = 180
    rebuild_mb_per_s: Annotated[Positive, Field(le=10_000)] = 100
    drive_failures_per_year: Annotated[Share, Field(lt=1)] = 0.02


class NetworkDevice(PortDevice):
    """A router, switch, bridge or anything else of the network. ``device_type`` is the id of a device type, or empty.

    Attributes:
        wan_port: the number of the port that is for the internet, 0 for none.
        upload_mbps: what the line to the internet that is plugged in there carries outward; None: no line.
        viewed_streams: how many streams are watched at once here, or through the internet line; ``views_main_streams``: as
            main streams, else as substreams.
        radio_end: which end of a radio link it is.
        poe_class, power_w: what it is fed over its cable, and draws itself; None: it has a mains lead.
        spanning_tree: it runs spanning tree (RSTP), which keeps one link of a ring in reserve.
    """

    role: Annotated[Role, Field()] = "switch"
    device_type: Text = ""
    wan_port: PortNumber = 0
    upload_mbps: Mbps | None = None
    viewed_streams: PortNumber = 0
    views_main_streams: bool = False
    radio_end: RadioEnd = ""
    poe_class: PoeClass | None = None
    power_w: Watts = 0
    spanning_tree: bool = False


class Obstacle(Plain):
    """Something in the way of a radio path: how far from end a, and how high above the same level as both ends."""

    at_m: Metres
    height_m: Metres


class RadioPlan(Plain):
    """A radio link as planned: channel, power, antennas, encryption, and the path between its ends."""

    frequency_ghz: Annotated[Positive, Field(le=100)] = 5.5
    width_mhz: Annotated[Whole, one_of(*RATE_MBPS_PER_STREAM)] = 40
    streams: Annotated[Whole, Field(ge=1, le=4)] = 2
    tx_dbm: Annotated[AnySign, Field(ge=-50, le=60)] = 17
    tx_gain_dbi: Annotated[AnySign, Field(ge=-50, le=60)] = 13
    rx_gain_dbi: Annotated[AnySign, Field(ge=-50, le=60)] = 13
    other_loss_db: Annotated[Number, Field(le=100)] = 3
    security: Literal["wpa3", "wpa2", "wep", "open"] = "wpa2"
    a_height_m: Metres = 6
    b_height_m: Metres = 6
    obstacles: Annotated[tuple[Obstacle, ...], Field(max_length=20)] = ()


class Link(Plain):
    """A link between two devices, by id, with the numbers of the ports it is plugged into (0: not named).

    ``capacity_mbps`` is what it carries each way, or None: what its ports, its radio or its long reach give. The
    cable of a link that ends at a camera is the camera's own run. ``aggregated``: both ends have put it together with the
    other such links between them (link aggregation).
    """

    id: Id
    a: Id
    a_port: PortNumber = 0
    b: Id
    b_port: PortNumber = 0
    medium: Literal["copper", "fibre", "radio"] = "copper"
    long_reach: bool = False
    aggregated: bool = False
    capacity_mbps: Mbps | None = None
    length_m: Metres | None = None
    awg: Gauge = 24
    cable_material: CableMaterial = "copper"
    outdoor: bool = False
    surge_protected: bool = False
    radio: RadioPlan | None = None

    def far_end(self, device_id: str) -> tuple[str, int]:
        """The device at the other end, and its port."""
        return (self.b, self.b_port) if device_id == self.a else (self.a, self.a_port)


class PowerUnit(Plain):
    """An injector, a power supply or a UPS, and what it feeds.

    An injector puts power of ``poe_class`` on one device's cable. A power supply gives ``output`` at the end of
    ``length_m`` of wire to all that it feeds. A UPS (``ups``) carries what it feeds through a power cut.
    """

    id: Id
    name: Annotated[Text, Field(min_length=1)]
    place: Text = ""
    kind: Literal["injector", "supply", "ups"] = "supply"
    output: PowerInput = "12 V DC"
    poe_class: PoeClass = 4
    budget_w: Watts = 60
    battery_wh: Annotated[Number, Field(le=1e7)] = 0
    length_m: Metres = 0
    area_mm2: Annotated[Positive, Field(le=1000)] = 0.75
    feeds: Annotated[tuple[Id, ...], Field(max_length=1000)] = ()
    note: LongText = ""


class SubnetPlan(Plain):
    """A subnet of the job: its size, its way out, and what the DHCP server leases in it.

    ``leases_in_use`` of the pool are taken now, and ``new_leases_per_month`` devices come that the server does not know.
    """

    id: Id
    name: Annotated[Text, Field(min_length=1)]
    cidr: Cidr
    gateway: Address = ""
    pool_first: Address = ""
    pool_last: Address = ""
    leases_in_use: Annotated[Whole, Field(le=2**24)] = 10
    new_leases_per_month: Annotated[Number, Field(le=1e6)] = 5


class Schedule(Plain):
    """A named week of recording modes that many cameras share. ``alarms`` are the hours in which alarms pop up."""

    id: Id
    name: Annotated[Text, Field(min_length=1)]
    plan: WeekPlan = WeekPlan()
    alarms: WeekPlan = WeekPlan()


class ScheduleException(Plain):
    """Dates on which another week holds: a closure, a holiday, running days.

    ``first`` and ``last`` both belong to it; of a ``yearly`` one only month and day count, and it may go over new year.
    ``days`` are the days of the week that it is about (empty: all), ``instead_of`` the week in whose place ``week`` stands
    (empty: any). Where exceptions overlap, the later one of the list wins.
    """

    id: Id
    name: Annotated[Text, Field(min_length=1)]
    # The range keeps date arithmetic (a year before, a year after) inside what `date` can hold.
    first: Annotated[date, Field(ge=date(1990, 1, 1), le=date(2200, 12, 31))]
    last: Annotated[date, Field(ge=date(1990, 1, 1), le=date(2200, 12, 31))]
    yearly: bool = False
    days: Annotated[tuple[Day, ...], Field(max_length=7)] = ()
    instead_of: Text = ""
    schedule: Text = ""

    @model_validator(mode="after")
    def _in_order(self) -> "ScheduleException":
        if not self.yearly and self.last < self.first:
            raise ValueError(
                f"its last day {self.last} is before its first {self.first}; only a yearly exception may span the new year"
            )
        return self

    def as_dates(self) -> Dates:
        """As the year's calculation takes it."""
        return Dates(self.id, self.first, self.last, self.yearly, self.days, self.instead_of, self.schedule)


class SavedRule(Plain):
    """A motion rule under a name, to be given to many cameras."""

    id: Id
    name: Annotated[Text, Field(min_length=1)]
    rule: MotionRule


class Retention(Plain):
    """How long pictures must be kept, and by when they must be gone."""

    least_days: Annotated[Number, Field(le=36_500)] = 31
    most_days: Annotated[Number, Field(le=36_500)] | None = None

    @model_validator(mode="after")
    def _in_order(self) -> "Retention":
        if self.most_days is not None and self.most_days < self.least_days:
            raise ValueError(f"at most {self.most_days:g} days is less than at least {self.least_days:g}")
        return self


class DriveOffer(Plain):
    """A drive that can be bought: its size, and its price in the price list's currency."""

    name: Annotated[Text, Field(min_length=1)]
    tb: Annotated[Positive, Field(le=10_000)]
    price: Annotated[Number, Field(le=1e9)]
    currency: Text = ""


class Assumptions(Plain):
    """What is assumed of all streams until it is measured; the program's own unless the job sets others.

    H.265 saves ``h265_saved_share`` on H.264 at like quality, between the least and the most in 8 of 10 cases; cameras
    let ``noise_kept_share`` of the noise through; their encoders need ``encoder_factor`` times what those that were measured
    do; ``dark_share`` of the day is dark over the year's mean, more in winter and less in summer by ``latitude_deg`` (None:
    that of the time zone's town; none where the zone has no town).
    """

    h265_saved_share: Annotated[Share, Field(lt=1)] = usual_assumptions().h265_saved_share
    h265_saved_least_share: Annotated[Share, Field(lt=1)] = usual_assumptions().h265_saved_least_share
    h265_saved_most_share: Annotated[Share, Field(lt=1)] = usual_assumptions().h265_saved_most_share
    noise_kept_share: Annotated[Number, Field(le=3)] = usual_assumptions().noise_kept_share
    dark_share: Share = usual_assumptions().dark_share
    encoder_factor: Annotated[Positive, Field(ge=0.2, le=5)] = usual_assumptions().encoder_factor
    latitude_deg: Annotated[AnySign, Field(ge=-70, le=70)] | None = None

    @model_validator(mode="after")
    def _in_order(self) -> "Assumptions":
        if not self.h265_saved_least_share <= self.h265_saved_share <= self.h265_saved_most_share:
            raise ValueError("the saving of H.265 must lie between its minimum and its maximum")
        return self

    def as_assumed(self) -> Assumed:
        """As the model of rates takes them."""
        return Assumed(**{name: getattr(self, name) for name in Assumed._fields})


class Activity(Plain):
    """How much goes on from day to day, for the spread of days kept.

    ``day_spread`` is the standard deviation of a day's events against the mean; for ``busy_days`` in a row each year
    there are ``busy_factor`` times as many. ``day_memory`` is the correlation of one day with the next, the days of the week
    apart: after a busy day another follows more often than not.
    """

    day_spread: Annotated[Number, Field(le=3)] = 0.3
    day_memory: Annotated[Number, Field(le=0.95)] = 0.4
    busy_factor: Annotated[Positive, Field(ge=1, le=20)] = 1.5
    busy_days: Annotated[Whole, Field(le=364)] = 0


class Accepted(Plain):
    """A finding that somebody looked at and says is meant so: of which kind, what it is about, why, and who says so."""

    code: Text
    subjects: Annotated[tuple[Id, ...], Field(max_length=MOST_CAMERAS * 2)] = ()
    why: Text = ""
    by: Text = ""


class Job(Plain):
    """One job: everything in its file."""

    name: Annotated[Text, Field(min_length=1)] = "New job"
    customer: Text = ""
    site: Text = ""
    prepared_by: Text = ""
    contact: Text = ""
    note: LongText = ""
    time_zone: Annotated[Text, AfterValidator(_zone)] = "UTC"
    time_server: Text = ""
    retention: Retention = Retention()
    activity: Activity = Activity()
    assumed: Assumptions = Assumptions()
    subnets: Annotated[tuple[SubnetPlan, ...], Field(max_length=MOST_OTHERS)] = ()
    schedules: Annotated[tuple[Schedule, ...], Field(max_length=MOST_OTHERS)] = ()
    exceptions: Annotated[tuple[ScheduleException, ...], Field(max_length=1000)] = ()
    rules: Annotated[tuple[SavedRule, ...], Field(max_length=500)] = ()
    recorders: Annotated[tuple[Recorder, ...], Field(max_length=MOST_OTHERS)] = ()
    network: Annotated[tuple[NetworkDevice, ...], Field(max_length=MOST_OTHERS)] = ()
    cameras: Annotated[tuple[Camera, ...], Field(max_length=MOST_CAMERAS)] = ()
    links: Annotated[tuple[Link, ...], Field(max_length=MOST_CAMERAS * 2)] = ()
    power_units: Annotated[tuple[PowerUnit, ...], Field(max_length=MOST_OTHERS)] = ()
    device_types: Annotated[tuple[DeviceType, ...], Field(max_length=MOST_OTHERS)] = ()
    make_profiles: Annotated[tuple[MakeProfile, ...], Field(max_length=200)] = ()
    fault_figures: Annotated[tuple[FaultFigure, ...], Field(max_length=5000)] = ()
    rehearsal: Rehearsal | None = None
    service_months: Annotated[Whole, Field(le=120)] = 12
    cable_waste_share: Annotated[Share, Field(lt=1)] = 0.1
    drive_offers: Annotated[tuple[DriveOffer, ...], Field(max_length=1000)] = ()
    prices: Annotated[tuple[PartPrice, ...], Field(max_length=5000)] = ()
    charges: Charges = Charges()
    commissioning: Annotated[tuple[Tick, ...], Field(max_length=MOST_CAMERAS * 8)] = ()
    mounting_list: Annotated[tuple[MountingStep, ...], Field(max_length=500)] = ()
    mounting: Annotated[tuple[Tick, ...], Field(max_length=MOST_CAMERAS * 40)] = ()
    checks: Annotated[tuple[Check, ...], Field(max_length=MOST_CAMERAS * 24)] = ()
    walks: Annotated[tuple[Walk, ...], Field(max_length=MOST_CAMERAS * 10)] = ()
    fill_readings: Annotated[tuple[FillReading, ...], Field(max_length=50_000)] = ()
    snags: Annotated[tuple[Snag, ...], Field(max_length=MOST_CAMERAS)] = ()
    accepted: Annotated[tuple[Accepted, ...], Field(max_length=2000)] = ()
    handed_over: Annotated[tuple[HandedOver, ...], Field(max_length=200)] = ()
    spare_network: Annotated[tuple[NetworkDevice, ...], Field(max_length=MOST_OTHERS)] = ()
    spare_recorders: Annotated[tuple[Recorder, ...], Field(max_length=MOST_OTHERS)] = ()
    spare_cameras: Annotated[tuple[Camera, ...], Field(max_length=MOST_OTHERS)] = ()

    @model_validator(mode="after")
    # Devices of all lists share one name space, because links, power units and subjects of findings name a device by id
    # alone.
    def _ids_are_unique(self) -> "Job":
        for kinds, what in (
            ((self.recorders, self.network, self.cameras, self.power_units, tuple(self.spare_devices())), "device"),
            ((self.schedules,), "schedule"),
            ((self.exceptions,), "exception"),
            ((self.rules,), "rule"),
            ((self.subnets,), "subnet"),
            ((self.links,), "link"),
            ((self.device_types,), "device type"),
            ((self.snags,), "snag"),
            ((self.mounting_list,), "mounting step"),
        ):
            ids = [part.id for parts in kinds for part in parts]
            if len(set(ids)) != len(ids):
                twin = Counter(ids).most_common(1)[0][0]
                raise ValueError(f"the {what} id {twin!r} is used {ids.count(twin)} times; ids must be unique")
        return self

    def spare_devices(self) -> Iterable[Device]:
        """Those that are bought and not installed. No figure, finding or plan knows of them, only the parts list does."""
        yield from self.spare_network
        yield from self.spare_recorders
        yield from self.spare_cameras

    def device_ids(self) -> Iterable[str]:
        """The ids of all devices, spare ones too: none of them is given again."""
        for device in (*self.devices(), *self.spare_devices()):
            yield device.id

    def devices(self) -> Iterable[Device]:
        """All devices, in the order in which they are given addresses: network, recorders, cameras."""
        yield from self.network
        yield from self.recorders
        yield from self.cameras


# Tuples mark lists: a new list field with a default of () takes part in undo, differences and file order without being named.
JOB_LISTS: tuple[str, ...] = tuple(name for name, field in Job.model_fields.items() if field.default == ())
"""The job's lists, in the order of its file; its other fields are single values."""


def role_of(device: Device) -> Role:
    """The role of a device, as the address plan groups them."""
    if isinstance(device, NetworkDevice):
        return device.role
    return "recorder" if isinstance(device, Recorder) else "camera"


P = TypeVar("P", bound=Plain)


def changed(part: P, **fields: Any) -> P:
    """The part with some fields changed and checked again.

    Raises:
        RefusedInput: naming the field, what was given and what is allowed.
    """
    # Typed text can hold surrogates that cannot be written to a file; refuse them here, before they become part of a job.
    for name, value in fields.items():
        fields[name] = without_unwritable(value)
    # `model_copy(update=...)` would skip validation, so the whole part is read again.
    new = read_as(type(part), {**part.__dict__, **fields})
    # Nobody asks a part which of its fields were given, and a set of them would be more than half of its memory.
    object.__setattr__(new, "__pydantic_fields_set__", part.__pydantic_fields_set__)
    return new


def by_id(parts: Iterable[P]) -> dict[str, P]:
    """The parts of a job by their id."""
    return {part.id: part for part in parts}  # type: ignore[attr-defined]


def fresh_ids_after(prefix: str, taken: Iterable[str]) -> Iterator[str]:
    """New ids ``prefix-N`` without end, that continue behind the highest number in use, so that an id is never given again."""
    start = len(prefix) + 1
    highest = 0
    for used in taken:
        # isdigit() alone accepts other scripts' digits, which int() reads as well; the length bound keeps int() cheap
        # on hostile files.
        if used.startswith(prefix + "-") and used[start:].isascii() and used[start:].isdigit() and len(used) < 30:
            highest = max(highest, int(used[start:]))
    return (f"{prefix}-{number}" for number in itertools.count(highest + 1))


def fresh_ids(prefix: str, taken: Iterable[str], how_many: int) -> list[str]:
    """So many new ids."""
    return list(itertools.islice(fresh_ids_after(prefix, taken), how_many))


EMPTY_JOB = Job()


def new_job() -> Job:
    """A job to begin with: no devices, and one week in which everything is kept, as recorders do out of the box."""
    always = (Span(0, MINUTES_A_DAY, "continuous"),)
    return Job(schedules=(Schedule(id="week-1", name="Round the clock", plan=WeekPlan(**dict.fromkeys(DAYS, always))),))
