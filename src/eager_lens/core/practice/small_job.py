"""The small job of a practice: a stop of an invented tramway, a shed across the yard, and a recorder."""

from __future__ import annotations

from random import Random

from eager_lens.core.enquiry.build import job_for
from eager_lens.core.enquiry.enquiry import Enquiry, PlaceWanted
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.job.model import Job, NetworkDevice, RadioPlan, changed, fresh_ids, new_job, role_of
from eager_lens.core.planning.addressing import plan_all
from eager_lens.core.reference.device_types import device_types

PLACES = ("Ferry Halt", "Quarry Loop", "Chapel Stop", "Lower Wharf", "Orchard End")
VIEWS = ("door", "queue", "corridor", "till", "room")
OUTDOORS = ("yard", "gate", "fence")
MAKE = "Quillmark"
PREFIX = "02:5b:2a"


def small_job(seed: int, radio: bool, name: str) -> Job:
    """A job of eight to twelve cameras.

    Args:
        seed: makes names and numbers come out the same again. radio: the shed hangs on a radio link.
        name: of the job.
    """
    rng = Random(f"practice job {seed}")
    halt = rng.choice(PLACES)
    inside = {kind: rng.randint(1, 2) for kind in rng.sample(VIEWS, 3)}
    outside = {kind: rng.randint(1, 2) for kind in rng.sample(OUTDOORS, 2)}
    places = (
        PlaceWanted(name=halt, views={**inside, **outside}),
        PlaceWanted(name="Shed", distance_m=90, other_building=True, views={"store": 1, rng.choice(OUTDOORS): 2}),
    )
    base = changed(new_job(), time_zone="Europe/London", make_profiles=(MakeProfile(make=MAKE, open_user_own=False),))
    job = job_for(Enquiry(name=name, places=places, site=f"{halt} (invented)", record="motion", capped=False), base)
    if radio:
        job = _bridged(job)
    devices = [*job.network, *job.recorders, *job.cameras]
    labels = {
        device.id: {
            "mac_address": f"{PREFIX}:00:{at // 256:02x}:{at % 256:02x}",
            "serial": f"QU-{4000 + 7 * at + seed % 100}",
        }
        for at, device in enumerate(devices, 16)
    }
    return changed(
        job,
        network=tuple(changed(one, **labels[one.id]) for one in job.network),
        recorders=tuple(changed(one, make=f"{MAKE} R12", **labels[one.id]) for one in job.recorders),
        cameras=tuple(changed(one, make=f"{MAKE} B4", **labels[one.id]) for one in job.cameras),
    )


def _bridged(job: Job) -> Job:
    """With a wireless bridge in place of the cable to the shed."""
    switches = {one.id: one for one in job.network if role_of(one) == "switch"}
    link = next(one for one in job.links if {one.a, one.b} <= switches.keys())
    kind = device_types()["bridge-1"].fits()
    near, far = (
        NetworkDevice(
            **{**kind, "id": f"bridge-{at}", "name": f"Bridge, {place}", "place": place, "radio_end": radio_end}
        )
        for at, place, radio_end in (
            (1, switches[link.b].place, "access point"),
            (2, switches[link.a].place, "client"),
        )
    )
    more = fresh_ids("link", [one.id for one in job.links], 2)
    links = (
        *(one for one in job.links if one is not link),
        changed(link, medium="copper", b=far.id, b_port=1, length_m=5, outdoor=False),
        changed(
            link, id=more[0], medium="radio", a=far.id, a_port=0, b=near.id, b_port=0, radio=RadioPlan(), length_m=90
        ),
        changed(link, id=more[1], medium="copper", a=near.id, a_port=1, length_m=5, outdoor=False),
    )
    job = changed(job, network=(*job.network, near, far), links=links)
    return plan_all(job).apply(job)
