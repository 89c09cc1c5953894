"""From an enquiry to a whole job: cameras, recorders, switches, router, addresses, schedules, rules and exceptions.

What nobody said on the telephone is assumed as practice has it, and noted: on the job, and on each camera.
"""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.addressing.ipv4 import address_text, subnet_of
from eager_lens.core.assess.assessment import assess
from eager_lens.core.assess.figures.devices import misses_purpose
from eager_lens.core.assess.rules.sides import NO_CAMERA_SIDE
from eager_lens.core.enquiry.enquiry import (
    MOST_CAMERAS,
    RUN_M,
    Enquiry,
    PlaceWanted,
    ViewKind,
    has_own_switch,
    view_kinds,
)
from eager_lens.core.enquiry.network import wired
from eager_lens.core.enquiry.storage import NoDrives, recorder_for, shared_out, with_drives
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.capping import capped
from eager_lens.core.job.edits import Edit
from eager_lens.core.job.model import (
    Camera,
    Job,
    NetworkDevice,
    Recorder,
    Registration,
    Retention,
    Schedule,
    ScheduleException,
    SubnetPlan,
    changed,
    new_job,
)
from eager_lens.core.optics.lens import LENSES_MM
from eager_lens.core.planning.addressing import plan_all
from eager_lens.core.recording.opening_hours import ON_MOTION, every_day, open_day
from eager_lens.core.recording.week import DAYS, MINUTES_A_DAY, Span, WeekPlan
from eager_lens.core.reference.device_types import device_types
from eager_lens.core.units import figure
from eager_lens.core.values.motion_rule import MotionRule

POE = {False: (3, 7.0), True: (4, 14.0)}
"""PoE class, and the most that is drawn by night, in W, of an indoor and an outdoor camera (assumed)."""

LAN_CIDR, WIDE_CIDR = "192.168.40.0/24", "10.40.0.0/16"
MOST_IN_LAN = 120

MOST_ON_A_RECORDER = (64, 32, 16, 8, 4)
"""Cameras on one recorder: fewer where no drives that are sold keep the days of more."""

ASSUMED = (
    f"cable runs of {figure(RUN_M[False])} m indoors and {figure(RUN_M[True])} m outdoors within a place",
    "distance, mounting height and lens of each camera, from its kind of view",
    "activity in each view, and therefore bit rates and days",
    "the usual maximum bit rate of each camera, from its picture and view",
    *(
        f"PoE class {poe_class} and {figure(power_w)} W for cameras {where}"
        for where, (poe_class, power_w) in (("indoors", POE[False]), ("outdoors", POE[True]))
    ),
    "a dry place with mains power and air for each switch and recorder",
)
"""What nobody said on the telephone."""

FIRST_WEEK = "week-1"
"""The schedule that all cameras begin with."""

NOTE_BEGINS = "Assumed, to be checked on site:"
"""So the job's note tells it."""


def job_for(enquiry: Enquiry, base: Job | None = None) -> Job:
    """The whole job that an enquiry asks for. ``base`` gives who prepares it and the time zone.

    Raises:
        RefusedInput: when nothing or too much is wanted, places share a name, no drives that are sold keep the days, or a way
            of attaching does not go with so many cameras.
    """
    if not enquiry.cameras:
        raise RefusedInput("places", "there are no views yet; enter how many of each kind a place needs")
    if enquiry.cameras > MOST_CAMERAS:
        raise RefusedInput(
            "places",
            f"{enquiry.cameras:,} views are more than {MOST_CAMERAS:,}; create a part here, and import the rest",
        )
    names = [place.name.casefold() for place in enquiry.places]
    twin = next((place.name for place in enquiry.places if names.count(place.name.casefold()) > 1), "")
    if twin:
        raise RefusedInput("places", f"two places are called {twin}; rename one")
    job = base or new_job()
    job = changed(
        job,
        name=enquiry.name,
        customer=enquiry.customer,
        site=enquiry.site,
        note=_note(),
        retention=Retention(least_days=enquiry.least_days, most_days=enquiry.most_days),
        subnets=(_subnet(_cidr(enquiry), enquiry.internet),),
        **_times(enquiry),
    )
    job = changed(job, cameras=tuple(_cameras(enquiry)), network=_routers(enquiry))
    for most in MOST_ON_A_RECORDER:
        try:
            return _equipped(_registered(job, enquiry.places[0].name, most, enquiry.erase_after_days), enquiry)
        except NoDrives as error:
            refused = error
    raise refused


def _equipped(job: Job, enquiry: Enquiry) -> Job:
    """The job with its wiring, addresses and drives."""
    job = _on_the_lan(_with_camera_sides(wired(job, enquiry)))
    return with_drives(plan_all(job).apply(job), enquiry.redundancy)


def _on_the_lan(job: Job) -> Job:
    """With the cameras that no PoE port of their recorder takes in the recorder's LAN."""
    by_ports = {recorder.id: recorder for recorder in job.recorders if recorder.attachment == "recorder PoE ports"}
    on_ports = {camera_id for link in job.links for camera_id in (link.a, link.b) if {link.a, link.b} & by_ports.keys()}
    cameras = tuple(
        changed(camera, subnet=by_ports[place.recorder].subnet or job.subnets[0].id, address="")
        if camera.id not in on_ports and (place := camera.registered[0]).recorder in by_ports
        else camera
        for camera in job.cameras
    )
    return changed(job, cameras=cameras)


def build(enquiry: Enquiry) -> Edit:
    """One step that makes the job of an enquiry out of an empty one; what it is applied to raises as ``job_for``."""
    return Edit(f"Create {enquiry.name} from the enquiry", lambda job: job_for(enquiry, job))


def _note() -> str:
    return f"Created from an enquiry. {NOTE_BEGINS} " + "; ".join(ASSUMED) + "."


def _cidr(enquiry: Enquiry) -> str:
    return LAN_CIDR if enquiry.cameras <= MOST_IN_LAN else WIDE_CIDR


def _subnet(cidr: str, internet: bool) -> SubnetPlan:
    """The LAN: the gateway its first address, the upper hundred of its first 250 for DHCP where there is a router."""
    first = subnet_of(cidr).first_host
    if not internet:
        return SubnetPlan(id="lan-1", name="Camera LAN", cidr=cidr, leases_in_use=0, new_leases_per_month=0)
    pool = {"pool_first": address_text(first + 149), "pool_last": address_text(first + 248)}
    return SubnetPlan(id="lan-1", name="Camera LAN", cidr=cidr, gateway=address_text(first), **pool)


def _times(enquiry: Enquiry) -> dict[str, tuple[Schedule, ...] | tuple[ScheduleException, ...]]:
    """The schedule, and what holds on the days on which it is closed."""
    closed = Schedule(id="week-2", name="Closed", plan=every_day(ON_MOTION))
    if enquiry.record == "continuous":
        return {
            "schedules": (
                Schedule(
                    id=FIRST_WEEK, name="Round the clock", plan=every_day((Span(0, MINUTES_A_DAY, "continuous"),))
                ),
            )
        }
    if enquiry.record == "motion":
        return {"schedules": (Schedule(id=FIRST_WEEK, name="On motion", plan=every_day(ON_MOTION)),)}
    plan = WeekPlan(
        **{
            day: open_day(enquiry.opens_min, enquiry.closes_min) if day in enquiry.open_days else ON_MOTION
            for day in DAYS
        }
    )
    week = Schedule(id=FIRST_WEEK, name="Opening hours", plan=plan)
    if not enquiry.closed:
        return {"schedules": (week,)}
    exceptions = tuple(
        ScheduleException(
            id=f"ex-{at}", name=f"Closed on {day.day} {day:%B}", first=day, last=day, yearly=True, schedule=closed.id
        )
        for at, day in enumerate(enquiry.closed, 1)
    )
    return {"schedules": (week, closed), "exceptions": exceptions}


def _cameras(enquiry: Enquiry) -> Iterator[Camera]:
    number = 0
    for place in enquiry.places:
        for kind_id, many in place.views.items():
            kind = view_kinds()[kind_id]
            for at in range(1, many + 1):
                number += 1
                name = f"{place.name}, {kind.one.lower()}{f' {at}' if many > 1 else ''}"
                yield _camera(f"cam-{number}", name, kind, place, enquiry)


def _camera(camera_id: str, name: str, kind: ViewKind, place: PlaceWanted, enquiry: Enquiry) -> Camera:
    run_m = RUN_M[kind.outdoors]
    poe_class, power_w = POE[kind.outdoors]
    made = Camera(
        id=camera_id,
        name=name,
        place=place.name,
        scene=kind.scene,
        purpose=kind.purpose,
        target_m=kind.target_m,
        mount_height_m=kind.mount_height_m,
        width_px=kind.width_px,
        height_px=kind.height_px,
        fps=kind.fps,
        events_per_h=kind.events_per_h,
        schedule=FIRST_WEEK,
        outdoor=kind.outdoors,
        poe_class=poe_class,
        power_w=power_w,
        cable_m=run_m if has_own_switch(place) else place.distance_m + run_m,
        motion_rule=MotionRule(kinds=kind.kinds),
        note="assumed: run, distance, height, lens and events",
    )
    made = capped(made) if enquiry.capped else made
    lenses = (changed(made, focal_mm=focal_mm) for focal_mm in LENSES_MM)
    return next((one for one in lenses if not misses_purpose(one)), changed(made, focal_mm=LENSES_MM[-1]))


def _registered(job: Job, main: str, most: int, erase_after_days: float | None) -> Job:
    """The job with as few recorders in the main place as its cameras want, at most so many on one, and every camera on a
    channel."""
    figures = assess(job).facts.camera_figures
    recorders: list[Recorder] = []
    cameras: list[Camera] = []
    groups = shared_out(job.cameras, figures, most)
    for number, own in enumerate(groups, 1):
        name = "Recorder" if len(groups) == 1 else f"Recorder {number}"
        recorder = recorder_for(f"rec-{number}", name, main, [figures[camera.id] for camera in own])
        recorders.append(changed(recorder, erase_after_days=erase_after_days))
        cameras += [
            changed(camera, registered=(Registration(recorder=recorder.id, channel=at),))
            for at, camera in enumerate(own, 1)
        ]
    return changed(job, recorders=tuple(recorders), cameras=tuple(cameras))


def _routers(enquiry: Enquiry) -> tuple[NetworkDevice, ...]:
    """The router, where there is an internet line; one stream is watched through it."""
    if not enquiry.internet:
        return ()
    fields = device_types()["router-4"].fits()
    place = enquiry.places[0].name
    first = address_text(subnet_of(_cidr(enquiry)).first_host)
    watched = {"upload_mbps": enquiry.upload_mbps, "viewed_streams": 1, "subnet": "lan-1", "address": first}
    return (NetworkDevice(id="net-1", name="Router", place=place, **{**fields, **watched}),)


def _with_camera_sides(job: Job) -> Job:
    """With a subnet for the camera side of each recorder that has one."""
    for recorder in job.recorders:
        found = assess(job).findings
        fix = next((f.fix for f in found if f.kind == NO_CAMERA_SIDE and recorder.id in f.subjects), None)
        job = job if fix is None else fix.apply(job)
    return job
