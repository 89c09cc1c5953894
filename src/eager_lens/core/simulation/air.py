"""Radio on the simulated site: who associates with whom, how strong, and why not."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from eager_lens.core.simulation.parts import Cable, Unit

DB_A_BAR = 6.0
"""dB per bar of signal, above the need of the slowest rate."""

MOST_BARS = 4

ONE_BAR_LOST_SHARE = 0.35
"""With one bar the link is gone for this share of the time (drop-outs)."""

REFUSED_SECURITY = ("wep", "open")


def trouble_of(cable: Cable, units: Mapping[str, Unit]) -> str:
    """Why the two ends of a radio path do not associate; empty when they do."""
    a, b = units[cable.a], units[cable.b]
    if a.antenna is None or b.antenna is None:
        return "one end has no radio"
    ends = {a.antenna.end or "not set", b.antenna.end or "not set"}
    if ends != {"access point", "client"}:
        return f"one end must be the access point and the other a client; they are {' and '.join(sorted(ends))}"
    host, client = (a.antenna, b.antenna) if a.antenna.end == "access point" else (b.antenna, a.antenna)
    if not client.network:
        return "the client has no network name"
    if host.network != client.network:
        case = " (capitals count)" if host.network.lower() == client.network.lower() else ""
        return f"the client looks for “{client.network}”, the access point is “{host.network}”{case}"
    if host.key != client.key:
        return "the key is wrong; capitals count"
    plan = a.antenna.plan or b.antenna.plan
    if plan is not None and plan.security in REFUSED_SECURITY:
        return f"the encryption is refused: {plan.security.upper()} keeps nobody out any more"
    if signal_bars(cable, units) == 0:
        return "no signal"
    return ""


def is_associated(cable: Cable, units: Mapping[str, Unit]) -> bool:
    """Whether a radio path carries something."""
    return not trouble_of(cable, units)


def signal_bars(cable: Cable, units: Mapping[str, Unit]) -> int:
    """Bars of signal, 0 to 4; full where the link was not planned."""
    for end in (units[cable.a], units[cable.b]):
        if end.antenna is not None and end.antenna.spare_db is not None:
            return max(0, min(MOST_BARS, 1 + int(end.antenna.spare_db // DB_A_BAR))) if end.antenna.spare_db >= 0 else 0
    return MOST_BARS


def radio_rests(unit: Unit, cables: Iterable[Cable], units: Mapping[str, Unit]) -> bool:
    """Whether a camera's cable, while plugged in, wins over its radio."""
    return unit.role == "camera" and any(
        cable.plugged
        and cable.medium != "radio"
        and unit.id in (cable.a, cable.b)
        and units[cable.far_end(unit.id)[0]].is_lit
        for cable in cables
    )
