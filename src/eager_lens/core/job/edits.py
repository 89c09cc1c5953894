"""Edits: labelled functions that turn one job into the next.

An edit is made first (``Edit``: what it is called, what it does) and applied later by the session, so the same object
serves a key press, a fix button and a test. Applying an edit never changes the job that it is given. If it cannot be
done it raises ``RefusedInput`` and nothing has happened.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, TypeVar

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.capping import cap_of_new
from eager_lens.core.job.fault_figures import FaultFigure, joined_figures
from eager_lens.core.job.kept_figures import HandedOver
from eager_lens.core.job.limits import require_room
from eager_lens.core.job.make_profiles import MakeProfile
from eager_lens.core.job.measured import with_settings
from eager_lens.core.job.model import (
    JOB_LISTS,
    Camera,
    Device,
    DriveOffer,
    Job,
    NetworkDevice,
    Recorder,
    Schedule,
    ScheduleException,
    SubnetPlan,
    by_id,
    changed,
    fresh_ids,
)
from eager_lens.core.job.most import MOST_CAMERAS
from eager_lens.core.job.prices import PartPrice
from eager_lens.core.job.rehearsal import Rehearsal, Tick
from eager_lens.core.recording.week import Day, Span, added, painted
from eager_lens.core.units import count
from eager_lens.core.validation import Plain, read_as

P = TypeVar("P", bound=Plain)

DEVICE_LISTS = ("network", "recorders", "cameras")


@dataclass(frozen=True)
class Edit:
    """A named change of a job.

    Edits with the same ``gesture`` that follow one another are kept as one undo step (strokes of one drag).
    """

    label: str
    apply: Callable[[Job], Job]
    gesture: str | None = None


def both(first: Edit | None, second: Edit) -> Edit:
    """Two edits in one step; of one alone, that one."""
    if first is None:
        return second
    return Edit(
        f"{first.label}; {second.label[:1].lower()}{second.label[1:]}", lambda job: second.apply(first.apply(job))
    )


def with_parts(job: Job, **lists: Plain | tuple[Plain, ...] | None) -> Job:
    """The job with whole lists replaced by parts that were checked already.

    Raises:
        RefusedInput: when a list would be longer than its file may hold.
    """
    require_room(job, lists)
    # model_copy skips validation on purpose: the parts were validated when they were made.
    return job.model_copy(update=lists)


def _replaced(parts: tuple[P, ...], ids: frozenset[str], change: Callable[[P], P]) -> tuple[P, ...]:
    return tuple(change(part) if part.id in ids else part for part in parts)  # type: ignore[attr-defined]


# ---- the job itself ----------------------------------------------------------------------------------------------


def set_job(what: str, **fields: Any) -> Edit:
    """Change fields of the job itself: its name, customer, days to keep."""
    return Edit(f"Set {what}", lambda job: job.model_copy(update=_checked_fields(job, fields)))


def _checked_fields(job: Job, fields: Mapping[str, Any]) -> dict[str, Any]:
    # Checked on a job without its long lists, so that a new name does not read 10,000 cameras again.
    bare = job.model_copy(update={**dict.fromkeys(JOB_LISTS, ()), "rehearsal": None})
    checked = changed(bare, **fields)
    return {name: getattr(checked, name) for name in fields}


def set_retention(least_days: float, most_days: float | None) -> Edit:
    """Change the days that must be kept, and the day by which pictures must be gone."""
    text = f"at least {least_days:g} days" + (f", at most {most_days:g}" if most_days is not None else "")
    return Edit(
        f"Keep {text}",
        lambda job: job.model_copy(
            update={"retention": changed(job.retention, least_days=least_days, most_days=most_days)}
        ),
    )


# ---- devices -----------------------------------------------------------------------------------------------------


def set_activity(label: str, **fields: Any) -> Edit:
    """Change how much goes on from day to day."""
    return Edit(label, lambda job: with_parts(job, activity=changed(job.activity, **fields)))


def set_assumed(label: str, **fields: Any) -> Edit:
    """Change what is assumed of all streams.

    Setting what H.265 saves beyond its range moves that end of the range along.
    """

    def apply(job: Job) -> Job:
        saved = fields.get("h265_saved_share")
        ends: dict[str, Any] = {}
        if isinstance(saved, int | float) and not isinstance(saved, bool):
            # The model refuses a value outside its range, so the range moves with it.
            ends["h265_saved_least_share"] = min(saved, job.assumed.h265_saved_least_share)
            ends["h265_saved_most_share"] = max(saved, job.assumed.h265_saved_most_share)
        return with_parts(job, assumed=changed(job.assumed, **{**ends, **fields}))

    return Edit(label, apply)


def set_drive_offers(offers: tuple[DriveOffer, ...]) -> Edit:
    """Replace the drives that can be bought."""
    return Edit(f"Use a price list of {count(len(offers), 'drive')}", lambda job: with_parts(job, drive_offers=offers))


def set_prices(prices: Sequence[PartPrice], currency: str = "") -> Edit:
    """Put prices of parts in, each in its own currency; those of parts that have one already are replaced. ``currency`` becomes the
    job's only where the job has none: what it has stays what its hours and its other prices are in."""

    def apply(job: Job) -> Job:
        new = {one.what.casefold() for one in prices}
        kept = tuple(old for old in job.prices if old.what.casefold() not in new)
        # A price list in another currency must not relabel the hourly rate.
        charges = changed(job.charges, currency=currency) if currency and not job.charges.currency else job.charges
        return with_parts(job, prices=(*kept, *prices), charges=charges)

    return Edit(f"Import {count(len(prices), 'price')}", apply)


def set_price(what: str, price: float | None) -> Edit:
    """Price a part; None takes its price away."""

    def apply(job: Job) -> Job:
        kept = tuple(old for old in job.prices if old.what.casefold() != what.casefold())
        return with_parts(job, prices=kept if price is None else (*kept, PartPrice(what=what, price=price)))

    return Edit(f"Price {what}", apply)


def set_fault_figures(label: str, figures: Sequence[FaultFigure], back: Collection[tuple[str, str, str]] = ()) -> Edit:
    """Set figures of the fault finder's table for the job, and go back to the table's own at some places."""

    def apply(job: Job) -> Job:
        kept = [one for one in job.fault_figures if one.place not in back]
        return with_parts(job, fault_figures=joined_figures(kept, figures))

    return Edit(label, apply)


def note_handed_over(what: HandedOver) -> Edit:
    """Keep the figures that stand on papers which were handed over; the same ones are kept once."""

    def apply(job: Job) -> Job:
        last = next((one for one in reversed(job.handed_over) if one.what == what.what), None)
        if last is not None and last.recorders == what.recorders and last.asked_days == what.asked_days:
            return job
        return with_parts(job, handed_over=(*job.handed_over[-MOST_HANDED_OVER + 1 :], what))

    return Edit(f"Note the handover of {what.what}", apply)


MOST_HANDED_OVER = 200


def set_charges(label: str, **fields: Any) -> Edit:
    """Change the hour's rate, the currency, the tax."""
    return Edit(label, lambda job: with_parts(job, charges=changed(job.charges, **fields)))


def _set(part: Plain, fields: Mapping[str, Any]) -> Plain:
    """A device with some fields changed."""
    return with_settings(part, fields) if isinstance(part, Camera) else changed(part, **fields)


def set_fields(ids: Iterable[str], label: str, gesture: str | None = None, **fields: Any) -> Edit:
    """Give fields of the named devices new values; devices that the job no longer has are passed over."""
    wanted = frozenset(ids)

    def apply(job: Job) -> Job:
        lists: dict[str, tuple[Plain, ...]] = {}
        for name in DEVICE_LISTS:
            parts: tuple[Device, ...] = getattr(job, name)
            if any(part.id in wanted for part in parts):
                lists[name] = _replaced(parts, wanted, lambda part: _set(part, fields))
        return with_parts(job, **lists)

    return Edit(label, apply, gesture)


def set_each(label: str, values: Mapping[str, Mapping[str, Any]]) -> Edit:
    """Give each named device its own new values, in one step (a pasted block, a plan of addresses)."""

    def apply(job: Job) -> Job:
        ids = frozenset(values)
        lists = {
            name: _replaced(getattr(job, name), ids, lambda part: _set(part, values[part.id])) for name in DEVICE_LISTS
        }
        return with_parts(job, **lists)

    return Edit(label, apply)


def add_cameras(cameras: Sequence[Mapping[str, Any]], label: str | None = None) -> Edit:
    """Add cameras from field values; ids are given here. One that names no week gets the job's week if there is one only."""

    def apply(job: Job) -> Job:
        _require_room(job, len(cameras))
        ids = fresh_ids("cam", job.device_ids(), len(cameras))
        # With several schedules a guess would hide that nobody decided.
        only_schedule = job.schedules[0].id if len(job.schedules) == 1 else ""
        new = []
        for at, (camera_id, fields) in enumerate(zip(ids, cameras, strict=True)):
            try:
                camera = changed(_BLANK_CAMERA, **{"schedule": only_schedule, **fields, "id": camera_id})
                new.append(cap_of_new(camera, fields))
            except RefusedInput as error:
                raise RefusedInput(f"cameras[{at}].{error.path}", error.problem) from None
        return with_parts(job, cameras=(*job.cameras, *new))

    return Edit(label or f"Add {count(len(cameras), 'camera')}", apply)


_BLANK_CAMERA = Camera(id="blank", name="Camera")


def _require_room(job: Job, more: int) -> None:
    if not more >= 1 or len(job.cameras) + more > MOST_CAMERAS:
        raise RefusedInput(
            "cameras",
            f"{more:,} more were asked for; a job holds at most {MOST_CAMERAS:,} cameras and has {len(job.cameras):,}, so "
            f"enter 1 to {MOST_CAMERAS - len(job.cameras):,}",
        )


ITS_OWN = (
    *("address", "address_assignment", "mac_address", "serial", "firmware", "certificate_sha256", "registered"),
    *(
        "measured_mbps",
        "measured_low_mbps",
        "measured_high_mbps",
        "measured_from",
        "measured_when",
        "measured_min",
        "measured_at",
        "seen",
    ),
)
"""What belongs to one camera alone, and a copy of it begins without."""


def add_like(camera_id: str, how_many: int) -> Edit:
    """Add a number of cameras like one: its settings and place, numbered names, but no address, label or channel."""

    def apply(job: Job) -> Job:
        _require_room(job, how_many)
        model = by_id(job.cameras).get(camera_id)
        if model is None:
            raise RefusedInput("cameras", f"the camera {camera_id} is no longer in the job; select another")
        own = {name: Camera.model_fields[name].default for name in ITS_OWN}
        ids = fresh_ids("cam", job.device_ids(), how_many)
        names = numbered_names(model.name, {camera.name for camera in job.cameras}, how_many)
        new = tuple(changed(model, id=i, name=n, **own) for i, n in zip(ids, names, strict=True))
        at = job.cameras.index(model) + 1
        return with_parts(job, cameras=(*job.cameras[:at], *new, *job.cameras[at:]))

    return Edit(f"Add {how_many} like this one", apply)


def numbered_names(name: str, taken: set[str], how_many: int) -> list[str]:
    """``Yard 3`` is followed by ``Yard 4``, ``Gate`` by ``Gate 2``; names in use are passed over."""
    stem, _, last = name.rpartition(" ")
    if stem and last.isascii() and last.isdigit() and len(last) < 10:
        number = int(last)
    else:
        stem, number = name, 1
    names: list[str] = []
    while len(names) < how_many:
        number += 1
        candidate = f"{stem[:180]} {number}"
        if candidate not in taken:
            names.append(candidate)
    return names


def add_recorder(**fields: Any) -> Edit:
    """Add a recorder."""

    def apply(job: Job) -> Job:
        (new_id,) = fresh_ids("rec", job.device_ids(), 1)
        blank = Recorder(id=new_id, name=f"Recorder {new_id.removeprefix('rec-')}")
        return with_parts(job, recorders=(*job.recorders, changed(blank, **fields)))

    return Edit("Add a recorder", apply)


def add_network_device(role: str, **fields: Any) -> Edit:
    """Add a router, switch, bridge or other device of the network."""

    def apply(job: Job) -> Job:
        (new_id,) = fresh_ids("net", job.device_ids(), 1)
        alike = sum(device.role == role for device in job.network)
        blank = NetworkDevice(id=new_id, name=f"{role.capitalize()} {alike + 1}")
        unpowered = {} if role == "switch" else {"ports": 5, "poe_ports": 0, "budget_w": 0}
        return with_parts(job, network=(*job.network, changed(blank, **{"role": role, **unpowered, **fields})))

    return Edit(f"Add a {role if role != 'other' else 'device'}", apply)


def remove_devices(ids: Iterable[str], label: str) -> Edit:
    """Take devices out of the job, with what was proved of them and with what was registered on them."""
    gone = frozenset(ids)

    def apply(job: Job) -> Job:
        lists: dict[str, tuple[Plain, ...]] = {
            name: tuple(part for part in getattr(job, name) if part.id not in gone) for name in DEVICE_LISTS
        }
        lists["cameras"] = tuple(_without_recorders(camera, gone) for camera in lists["cameras"])  # type: ignore[arg-type]
        lists["links"] = tuple(link for link in job.links if not gone & {link.a, link.b})
        lists["checks"] = tuple(check for check in job.checks if check.device not in gone)
        lists["snags"] = tuple(snag for snag in job.snags if snag.device not in gone)
        lists["walks"] = tuple(walk for walk in job.walks if walk.camera not in gone)
        lists["fill_readings"] = tuple(one for one in job.fill_readings if one.recorder not in gone)
        lists["mounting"] = tuple(tick for tick in job.mounting if tick.step.partition("/")[0] not in gone)
        lists["power_units"] = tuple(
            changed(unit, feeds=tuple(device for device in unit.feeds if device not in gone))
            if gone.intersection(unit.feeds)
            else unit
            for unit in job.power_units
        )
        return with_parts(job, **lists)

    return Edit(label, apply)


def _without_recorders(camera: Camera, gone: frozenset[str]) -> Camera:
    if not any(place.recorder in gone for place in camera.registered):
        return camera
    return changed(camera, registered=tuple(place for place in camera.registered if place.recorder not in gone))


# ---- bench -------------------------------------------------------------------------------------------------------


def set_rehearsal(label: str, rehearsal: Rehearsal | None, gesture: str | None = None) -> Edit:
    """Keep a rehearsal as it is now; None forgets it."""
    return Edit(label, lambda job: with_parts(job, rehearsal=rehearsal), gesture)


def set_make_profiles(label: str, make_profiles: Sequence[MakeProfile]) -> Edit:
    """Replace what is known of the makes."""
    return Edit(label, lambda job: with_parts(job, make_profiles=tuple(make_profiles)))


def tick_steps(ticks: Sequence[Tick]) -> Edit:
    """Note steps of the commissioning as done or left out; they take the place of earlier notes."""
    words = f"Tick {count(len(ticks), 'step')}" if ticks and ticks[0].outcome == "done" else "Skip a step"
    new = {tick.step for tick in ticks}
    return Edit(
        words,
        lambda job: with_parts(job, commissioning=(*(old for old in job.commissioning if old.step not in new), *ticks)),
    )


def untick_steps(keys: Iterable[str]) -> Edit:
    """Take notes on steps of the commissioning back."""
    gone = frozenset(keys)
    return Edit(
        f"Untick {count(len(gone), 'step')}",
        lambda job: with_parts(job, commissioning=tuple(old for old in job.commissioning if old.step not in gone)),
    )


# ---- subnets and weeks -------------------------------------------------------------------------------------------


def add_subnet(name: str, cidr: str, **fields: Any) -> Edit:
    """Add a subnet."""

    def apply(job: Job) -> Job:
        (new_id,) = fresh_ids("lan", (subnet.id for subnet in job.subnets), 1)
        blank = SubnetPlan(id=new_id, name="Subnet", cidr="10.0.0.0/24")
        return with_parts(job, subnets=(*job.subnets, changed(blank, name=name, cidr=cidr, **fields)))

    return Edit(f"Add the subnet {cidr}", apply)


def set_subnet(subnet_id: str, label: str, **fields: Any) -> Edit:
    """Change a subnet."""
    return Edit(
        label,
        lambda job: with_parts(
            job, subnets=_replaced(job.subnets, frozenset({subnet_id}), lambda part: changed(part, **fields))
        ),
    )


def remove_subnet(subnet_id: str) -> Edit:
    """Take a subnet out; its devices keep their addresses, and a finding says that they stand in no subnet."""
    return Edit(
        "Remove the subnet",
        lambda job: with_parts(job, subnets=tuple(part for part in job.subnets if part.id != subnet_id)),
    )


def add_schedule(name: str, like: str | None = None) -> Edit:
    """Add a schedule: empty, or a copy of another."""

    def apply(job: Job) -> Job:
        (new_id,) = fresh_ids("schedule", (schedule.id for schedule in job.schedules), 1)
        source = by_id(job.schedules).get(like or "")
        schedule = changed(Schedule(id=new_id, name="Week"), name=name)
        if source is not None:
            schedule = changed(schedule, plan=source.plan, alarms=source.alarms)
        return with_parts(job, schedules=(*job.schedules, schedule))

    return Edit(f"Add the schedule “{name}”", apply)


def set_schedule(schedule_id: str, label: str, **fields: Any) -> Edit:
    """Change a week's name or its plan as a whole."""
    return Edit(
        label,
        lambda job: with_parts(
            job,
            schedules=_replaced(job.schedules, frozenset({schedule_id}), lambda schedule: changed(schedule, **fields)),
        ),
    )


def paint_schedule(
    schedule_id: str,
    strokes: Mapping[Day, Sequence[Span]],
    label: str,
    gesture: str | None = None,
    alarms: bool = False,
    add: bool = False,
) -> Edit:
    """Lay spans over a week's days, or over its hours of pop-up alarms; mode idle takes away. With ``add`` they join what
    is there, so that both are recorded where motion and input hours overlap."""
    name, lay = "alarms" if alarms else "plan", added if add else painted

    def paint(schedule: Schedule) -> Schedule:
        return changed(schedule, **{name: lay(getattr(schedule, name), strokes)})

    def apply(job: Job) -> Job:
        return with_parts(
            job,
            schedules=tuple(paint(schedule) if schedule.id == schedule_id else schedule for schedule in job.schedules),
        )

    return Edit(label, apply, gesture)


def own_schedule(camera_id: str) -> Edit:
    """Give a camera a schedule of its own, a copy of the one that it has."""

    def apply(job: Job) -> Job:
        camera = by_id(job.cameras).get(camera_id)
        if camera is None:
            raise RefusedInput("cameras", f"the camera {camera_id} is no longer in the job; select another")
        old = by_id(job.schedules).get(camera.schedule)
        base = "Week" if old is None else old.name
        job = add_schedule(f"{base[:90]}, {camera.name[:90]}", like=camera.schedule).apply(job)
        return set_fields([camera_id], "own schedule", schedule=job.schedules[-1].id).apply(job)

    return Edit("Give a camera its own schedule", apply)


def add_exception(name: str, first: date, last: date, **fields: Any) -> Edit:
    """Add dates on which another week holds."""

    def apply(job: Job) -> Job:
        (new_id,) = fresh_ids("exception", (exception.id for exception in job.exceptions), 1)
        exception = read_as(ScheduleException, {"id": new_id, "name": name, "first": first, "last": last, **fields})
        return with_parts(job, exceptions=(*job.exceptions, exception))

    return Edit(f"Add the exception “{name}”", apply)


def set_exception(exception_ids: Iterable[str], label: str, gesture: str | None = None, **fields: Any) -> Edit:
    """Change exceptions."""
    wanted = frozenset(exception_ids)
    return Edit(
        label,
        lambda job: with_parts(job, exceptions=_replaced(job.exceptions, wanted, lambda one: changed(one, **fields))),
        gesture,
    )


def remove_exceptions(exception_ids: Iterable[str]) -> Edit:
    """Take exceptions out."""
    gone = frozenset(exception_ids)
    return Edit(
        f"Remove {count(len(gone), 'exception')}",
        lambda job: with_parts(job, exceptions=tuple(one for one in job.exceptions if one.id not in gone)),
    )


def remove_schedule(schedule_id: str) -> Edit:
    """Take a week out; cameras that had it have none, which a finding says."""

    def apply(job: Job) -> Job:
        return with_parts(
            job,
            schedules=tuple(schedule for schedule in job.schedules if schedule.id != schedule_id),
            cameras=tuple(changed(cam, schedule="") if cam.schedule == schedule_id else cam for cam in job.cameras),
        )

    return Edit("Remove the schedule", apply)
