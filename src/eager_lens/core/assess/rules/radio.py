"""Findings about radio links: who is at which end, whether the signal arrives, what is in the way, who may listen."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.figures.radio import OLD_SECURITY, RadioFigures, radio_figures
from eager_lens.core.assess.figures.topology import RADIO_MBPS
from eager_lens.core.assess.finding import Finding, FindingKind, Severity
from eager_lens.core.assess.limits import NEAR_SHARE, USUAL_EIRP_DBM
from eager_lens.core.job.model import Link, changed
from eager_lens.core.job.wiring import set_link
from eager_lens.core.units import count, figure
from eager_lens.core.validation import at_most

SAME_ENDS = FindingKind("same-ends", "wiring")
BRIDGE_ALONE = FindingKind("bridge-alone", "wiring")
CLIENT_TWICE = FindingKind("client-twice", "wiring")


def ends(facts: Facts) -> Iterator[Finding]:
    """One end an access point, every other a client, and no end alone."""
    radio: dict[str, list[Link]] = {}
    for link in facts.job.links:
        if link.medium == "radio":
            for end in (link.a, link.b):
                radio.setdefault(end, []).append(link)
            roles = [getattr(facts.by_device_id.get(end), "radio_end", "") for end in (link.a, link.b)]
            if roles[0] and roles[0] == roles[1]:
                yield Finding(
                    SAME_ENDS,
                    Severity.FAULT,
                    f"{facts.link_name(link)}: both are {roles[0]}s",
                    "Two access points, or two clients, never connect to each other. Label the bridges before they are mounted.",
                    "Make the bridge at the recorder's building the access point, and all others clients.",
                    (link.a, link.b),
                )
    for device in facts.job.network:
        mine = radio.get(device.id, [])
        if device.role == "bridge" and not mine and facts.job.links:
            yield Finding(
                BRIDGE_ALONE,
                Severity.FAULT,
                f"{device.name} has no partner",
                "A wireless bridge without a partner carries nothing.",
                "Add the partner, select both, and connect them.",
                (device.id,),
            )
        if device.radio_end == "client" and len(mine) > 1:
            yield Finding(
                CLIENT_TWICE,
                Severity.FAULT,
                f"{device.name} is a client of {len(mine)} access points",
                "A client joins one access point.",
                "Remove all but one of its radio links, or make it the access point.",
                (device.id,),
            )


OPEN_RADIO = FindingKind("open-radio", "wiring", button="Use WPA2")
RADIO_UNPLANNED = FindingKind("radio-unplanned", "wiring")


def paths(facts: Facts) -> Iterator[Finding]:
    """Signal, obstacles and encryption of every radio link."""
    unplanned = []
    for link in facts.job.links:
        if link.medium != "radio" or link.id not in facts.topology.wiring.capacity_mbps:
            continue
        if link.radio is not None and link.radio.security in OLD_SECURITY:
            yield Finding(
                OPEN_RADIO,
                Severity.FAULT,
                f"{facts.link_name(link)}: {'no encryption' if link.radio.security == 'open' else 'WEP'}",
                "Anyone nearby can watch the pictures, and most cameras and bridges refuse WEP.",
                "Use WPA2 or WPA3 with a long key, the same at both ends.",
                (link.a, link.b),
                set_link([link.id], f"Use WPA2 on {facts.link_name(link)}", radio=changed(link.radio, security="wpa2")),
            )
        got = radio_figures(link)
        if got is None:
            unplanned.append(link)
        else:
            yield from _path(link, got, facts)
    if unplanned:
        yield Finding(
            RADIO_UNPLANNED,
            Severity.NOTE,
            f"{count(len(unplanned), 'radio link has', 'radio links have')} no length or plan",
            f"For {facts.link_name(unplanned[0])} a throughput of {RADIO_MBPS:g} Mb/s is assumed until a rate is entered.",
            "Select the link in the diagram and enter its length, channel and antennas.",
            tuple(link.a for link in unplanned),
        )


RADIO_WEAK = FindingKind("radio-weak", "wiring")
RADIO_BLOCKED = FindingKind("radio-blocked", "wiring")
RADIO_TIGHT = FindingKind("radio-tight", "wiring", way_out="cap what the air carries")


def _path(link: Link, got: RadioFigures, facts: Facts) -> Iterator[Finding]:
    if got.budget.step is None:
        yield Finding(
            RADIO_WEAK,
            Severity.FAULT,
            f"{facts.link_name(link)}: {figure(got.budget.rx_dbm)} dBm RSSI, too weak for any MCS index",
            "Not even the lowest MCS index keeps its link margin.",
            "Use antennas with more gain, a narrower channel or a shorter path.",
            (link.a, link.b),
        )
    if got.tight:
        worst = min(got.clearances, key=lambda clear: clear.above_m - clear.wanted_m)
        where = f"{figure(worst.at_m)} m from {facts.name(link.a)}"
        yield Finding(
            RADIO_BLOCKED if got.blocked else RADIO_TIGHT,
            Severity.FAULT if got.blocked else Severity.WARNING,
            f"{facts.link_name(link)}: {'no line of sight' if got.blocked else 'too little clearance'}",
            f"An obstacle {where} reaches {figure(-worst.above_m)} m into the line of sight."
            if got.blocked
            else f"{where} the line of sight has {figure(worst.above_m)} m of clearance; {figure(worst.wanted_m)} m are needed "
            "(60 % of the first Fresnel zone), and more with leaves and rain.",
            "Mount one end or both higher, or go round the obstacle.",
            (link.a, link.b),
        )


AIR_OVER = FindingKind("air-over", "wiring", way_out="cap what the air carries")
AIR_NEAR = FindingKind("air-near", "wiring", way_out="cap what the air carries")


def air(facts: Facts) -> Iterator[Finding]:
    """Links that share an access point share its air."""
    for device_id, share in facts.topology.air_share.items():
        if share <= NEAR_SHARE or at_most(share, NEAR_SHARE):
            continue
        over = not at_most(share, 1)
        yield Finding(
            AIR_OVER if over else AIR_NEAR,
            Severity.FAULT if over else Severity.WARNING,
            f"{facts.name(device_id)}: {figure(100 * share)} % of the airtime is used",
            "All clients share one channel, in both directions.",
            "Use a wider channel, better antennas, a second bridge on another channel, or lower bit rates.",
            (device_id,),
        )


EIRP_HIGH = FindingKind("eirp-high", "wiring", way_out="less power")


def radiated(facts: Facts) -> Iterator[Finding]:
    """More radiated power than is usual for the band: it is the law's to say, and the fine is the installer's."""
    for link in facts.job.links:
        plan = link.radio
        if link.medium != "radio" or plan is None:
            continue
        # Both ends send, each through its own antenna, so the larger of the two decides.
        gain_dbi = max(plan.tx_gain_dbi, plan.rx_gain_dbi)
        eirp_dbm = plan.tx_dbm + gain_dbi
        usual = [most for low, high, most in USUAL_EIRP_DBM if low <= plan.frequency_ghz <= high]
        if usual and not at_most(eirp_dbm, usual[0]):
            yield Finding(
                EIRP_HIGH,
                Severity.WARNING,
                f"{facts.link_name(link)}: {figure(eirp_dbm)} dBm EIRP at {figure(plan.frequency_ghz)} GHz",
                f"Many countries allow {figure(usual[0])} dBm there; check your own rules. More power disturbs others and can "
                "be fined.",
                f"Set both transmitters to {figure(usual[0] - gain_dbi)} dBm, if your rules ask for it. The end with the "
                "larger antenna needs less power.",
                (link.a, link.b),
            )


RULES = (ends, paths, air, radiated)
