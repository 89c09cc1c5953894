"""Rules about clocks: who searches by time finds nothing, or the wrong minute, where they are off."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.assess import limits
from eager_lens.core.assess.codes import Code
from eager_lens.core.assess.facts import Facts
from eager_lens.core.assess.finding import Finding, Severity, names_listed
from eager_lens.core.assess.rules.kept import of_devices, reads
from eager_lens.core.clock.drift import SECONDS_A_DAY, drifted_s
from eager_lens.core.job.make_profiles import profile_of
from eager_lens.core.job.model import Camera, Device
from eager_lens.core.units import figure


@reads(
    "make_profiles",
    "subnets",
    *of_devices("name", "make", "subnet"),
    "cameras.registered",
    "network.role",
    "network.upload_mbps",
)
def clocks_drift(facts: Facts) -> Iterator[Finding]:
    """A make whose clocks run off, on devices that no time server keeps right: recorders serve their cameras, and are served
    from outside."""
    is_online = any(one.role == "router" and one.upload_mbps is not None for one in facts.job.network)
    served = {plan.id for plan in facts.job.subnets if plan.gateway and is_online}
    for profile in facts.job.make_profiles:
        off_s = drifted_s(0.0, profile.drift_ppm, SECONDS_A_DAY * limits.CLOCK_ALONE_DAYS)
        if off_s < limits.CLOCK_OFF_S:
            continue
        alone = [
            one
            for one in (*facts.job.recorders, *facts.job.cameras)
            if one.subnet not in served
            and not _follows_recorder(one)
            and profile_of(one.make, facts.job.make_profiles) is profile
        ]
        if alone:
            days = limits.CLOCK_OFF_S / drifted_s(0.0, profile.drift_ppm, SECONDS_A_DAY)
            yield Finding(
                Code.CLOCK_DRIFTS,
                Severity.WARNING,
                "bench",
                f"The clock of {names_listed([one.name for one in alone])} is up to {figure(off_s, 2)} s off after "
                f"{limits.CLOCK_ALONE_DAYS} days",
                f"No time server is reached, and a clock of this make gains or loses up to {figure(profile.drift_ppm)} in a "
                "million. A search by time then finds nothing, or the wrong minute.",
                f"Give a gateway to a time server outside, or set the clock at least every {max(1, int(days))} days.",
                tuple(one.id for one in alone),
            )


def _follows_recorder(one: Device) -> bool:
    return isinstance(one, Camera) and bool(one.registered)


RULES = (clocks_drift,)
