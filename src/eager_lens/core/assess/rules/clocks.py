"""Rules about clocks: who searches by time finds nothing, or the wrong minute, where they are off."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.addressing.ipv4 import address_number, subnet_of
from eager_lens.core.assess import limits
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.finding import Finding, FindingKind, Severity, names_listed, on_makes
from eager_lens.core.assess.incremental.kept import of_devices, reads
from eager_lens.core.clock.drift import SECONDS_A_DAY, drifted_s
from eager_lens.core.job.edits import Edit, set_subnet
from eager_lens.core.job.make_profiles import profile_of
from eager_lens.core.job.model import Camera, Device, SubnetPlan, role_of
from eager_lens.core.units import figure
from eager_lens.core.validation import at_most

SERVES_TIME = ("router", "recorder", "other")
"""Roles that may serve the time."""


CLOCK_DRIFTS = FindingKind("clock-drifts", "bench")


CLOCK_POLL_S = 3600.0
"""A device that follows a time server is taken to ask it once an hour (assumed; makers: a minute to a day)."""


@reads("make_profiles", "recorders.name", "recorders.make", "cameras.name", "cameras.make")
def clocks_useless(facts: Facts) -> Iterator[Finding]:
    """A make whose clocks are off before they ask the time server again: one that is reached does not help."""
    for profile in facts.job.make_profiles:
        off_s = drifted_s(0.0, profile.drift_ppm, CLOCK_POLL_S)
        if at_most(off_s, limits.CLOCK_WITHIN_S):
            continue
        them = [
            one
            for one in (*facts.job.recorders, *facts.job.cameras)
            if profile_of(one.make, facts.job.make_profiles) is profile
        ]
        if them:
            yield Finding(
                CLOCK_DRIFTS,
                Severity.WARNING,
                f"{names_listed([one.name for one in them])}: clock up to {figure(off_s, 2)} s off within an hour",
                f"The clock drifts by up to {figure(profile.drift_ppm)} ppm. Even if it asks a time server once an hour "
                f"(assumed), it is more than {figure(limits.CLOCK_WITHIN_S)} s off, and a log-in may be refused.",
                "Let it ask the server every few minutes. If the drift was not measured, correct it in the make profile.",
                tuple(one.id for one in them),
            )


CLOCK_ALONE_DAYS, CLOCK_OFF_S = 30, 60.0
"""A clock that no server sets must not be so far off before somebody sets it at a monthly look (assumed)."""


@reads(
    "make_profiles",
    "subnets",
    *of_devices("name", "make", "subnet"),
    "cameras.registered",
    "network.role",
    "network.upload_mbps",
    "time_server",
)
def clocks_drift(facts: Facts) -> Iterator[Finding]:
    """A make whose clocks run off, on devices that no time server keeps right: recorders serve their cameras, and are served
    from outside."""
    served = _served(facts)
    for profile in facts.job.make_profiles:
        off_s = drifted_s(0.0, profile.drift_ppm, SECONDS_A_DAY * CLOCK_ALONE_DAYS)
        if off_s < CLOCK_OFF_S:
            continue
        alone = [
            one
            for one in (*facts.job.recorders, *facts.job.cameras)
            if one.subnet not in served
            and not _follows_recorder(one)
            and profile_of(one.make, facts.job.make_profiles) is profile
        ]
        if alone:
            days = CLOCK_OFF_S / drifted_s(0.0, profile.drift_ppm, SECONDS_A_DAY)
            yield Finding(
                CLOCK_DRIFTS,
                Severity.WARNING,
                f"{names_listed([one.name for one in alone])}: clock up to {figure(off_s, 2)} s off after {CLOCK_ALONE_DAYS} "
                "days",
                f"No time server can be reached, and a clock of this make drifts by up to {figure(profile.drift_ppm)} ppm. A "
                "search by time then finds nothing, or the wrong minute.",
                f"Enter a gateway that leads to an outside time server, or set the clock at least every {max(1, int(days))} "
                "days.",
                tuple(one.id for one in alone),
            )


def _is_online(facts: Facts) -> bool:
    return any(one.role == "router" and one.upload_mbps is not None for one in facts.job.network)


def _address_of(text: str) -> int | None:
    """A time server as an address; None where it is a name."""
    try:
        return address_number(text) if text else None
    except ValueError:
        return None


def _home(facts: Facts, number: int | None) -> SubnetPlan | None:
    """The subnet of the job that an address is in."""
    return next((plan for plan in facts.job.subnets if number is not None and number in subnet_of(plan.cidr)), None)


def _served(facts: Facts) -> set[str]:
    """The subnets in which a time server is reached: that of the site's own, and those with a gateway to it or outside."""
    with_gateway = {plan.id for plan in facts.job.subnets if plan.gateway}
    home = _home(facts, _address_of(facts.job.time_server))
    if home is not None:
        return {home.id} | (with_gateway if home.gateway else set())
    return with_gateway if _is_online(facts) else set()


@reads(
    "time_server",
    "subnets",
    "recorders",
    *of_devices("name", "address", "subnet"),
    "network.role",
    "network.upload_mbps",
)
def time_server_unreached(facts: Facts) -> Iterator[Finding]:
    """A time server that was named, and that the recorders do not reach: cameras take the time from them."""
    text = facts.job.time_server
    if not facts.job.recorders:
        return
    if not text:
        yield from _no_way_at_all(facts)
        return
    home = _home(facts, _address_of(text))
    if home is not None:
        holder = next((one for one in facts.devices if one.address == text), None)
        if holder is None or role_of(holder) not in SERVES_TIME:
            who = (
                "no device of this job has that address"
                if holder is None
                else f"it belongs to {holder.name}, which is not a time server"
            )
            yield _unreached(
                f"Time server {text}: {who}",
                "Enter the address of a router, recorder or server, or add the device to the job.",
                [one.id for one in facts.job.recorders],
            )
            return
    elif not _is_online(facts):
        yield _unreached(
            f"Time server {text} is outside, but there is no internet line",
            "Enter the upload rate of the router's line, or use a time server on the site.",
            [one.id for one in facts.job.recorders],
        )
        return
    served = _served(facts)
    for plan in facts.job.subnets:
        alone = [one for one in facts.job.recorders if one.subnet == plan.id and plan.id not in served]
        if alone:
            inside = [
                one for one in facts.job.network if one.role == "router" and one.subnet == plan.id and one.address
            ]
            fix = set_subnet(plan.id, f"Use gateway {inside[0].address}", gateway=inside[0].address) if inside else None
            yield _unreached(
                f"{names_listed([one.name for one in alone])}: no gateway to the time server {text}",
                f"Enter a gateway for {plan.name}.",
                [plan.id, *(one.id for one in alone)],
                fix,
            )


TIME_SERVER = FindingKind("time-server", "bench")


def _no_way_at_all(facts: Facts) -> Iterator[Finding]:
    """No time server is named, and none outside can be reached: nothing sets the recorders' clocks."""
    gateways = {plan.id for plan in facts.job.subnets if plan.gateway}
    alone = [one for one in facts.job.recorders if one.subnet not in gateways]
    if not alone or not facts.job.subnets:
        return
    yield Finding(
        TIME_SERVER,
        Severity.WARNING,
        f"{names_listed([one.name for one in alone])}: no time server within reach",
        "The site has no time server, and without a gateway no outside one can be reached. Clocks drift by seconds a day, so a "
        "search by time finds nothing, or the wrong minute.",
        "Enter a gateway, or the address of a time server on the site. Otherwise set the clock by hand at every visit.",
        tuple(one.id for one in alone),
        set_at=on_makes("time_server"),
    )


def _unreached(title: str, action: str, subjects: list[str], fix: Edit | None = None) -> Finding:
    return Finding(
        TIME_SERVER,
        Severity.WARNING,
        title,
        "Without one, clocks drift by seconds a day: a search by time finds nothing, or the wrong minute, and some makes "
        "refuse log-ins.",
        action,
        tuple(subjects),
        fix,
        on_makes("time_server"),
    )


def _follows_recorder(one: Device) -> bool:
    return isinstance(one, Camera) and bool(one.registered)


RULES = (clocks_useless, clocks_drift, time_server_unreached)
