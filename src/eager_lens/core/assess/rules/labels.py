"""Findings about what was read off labels, and about ranges that no site's network should have."""

from __future__ import annotations

import re
from collections.abc import Iterator
from ipaddress import IPv4Network

from eager_lens.core.addressing.ipv4 import address_number, subnet_of
from eager_lens.core.assess.figures.facts import Facts
from eager_lens.core.assess.finding import Finding, FindingKind, Severity, names_listed
from eager_lens.core.assess.incremental.kept import of_devices, reads
from eager_lens.core.assess.rules.alike import alike
from eager_lens.core.job.edits import set_subnet
from eager_lens.core.job.make_profiles import maker_of, profile_of
from eager_lens.core.units import count

SHARED = IPv4Network("100.64.0.0/10")
"""Between providers and their customers (RFC 6598): nobody's on the internet."""


SAME_SERIAL = FindingKind("same-serial", "addresses")


@reads(*of_devices("name", "serial", "make"))
def same_serial(facts: Facts) -> Iterator[Finding]:
    """Two devices with one serial number: one label was read or copied wrongly."""
    read = (device for device in facts.devices if device.serial)
    for devices in alike(read, lambda device: (maker_of(device.make), device.serial)):
        yield Finding(
            SAME_SERIAL,
            Severity.WARNING,
            f"{count(len(devices), 'device')} with serial number {devices[0].serial}",
            f"{names_listed([device.name for device in devices])}: each device of a make has its own serial number, so one "
            "label was misread or copied wrongly. Warranty and handover papers depend on it.",
            "Read the labels again.",
            tuple(device.id for device in devices),
        )


GROUP_MAC_ADDRESS = FindingKind("group-mac-address", "addresses")


@reads(*of_devices("name", "mac_address"))
def group_mac_address(facts: Facts) -> Iterator[Finding]:
    """MAC addresses of groups or of everybody: no device has one (IEEE 802, lowest bit of the first octet)."""
    wrong = [device for device in facts.devices if device.mac_address and int(device.mac_address[:2], 16) & 1]
    if wrong:
        yield Finding(
            GROUP_MAC_ADDRESS,
            Severity.FAULT,
            f"{names_listed([device.name for device in wrong])}: not the MAC address of a device",
            "The first octet is odd, as in multicast and broadcast addresses. No device has such an address, so a digit was "
            "misread.",
            "Read the label again.",
            tuple(device.id for device in wrong),
        )


PUBLIC_RANGE = FindingKind("public-range", "addresses")


@reads("subnets")
def public_range(facts: Facts) -> Iterator[Finding]:
    """Addresses of the internet used inside (RFC 1918, RFC 6598)."""
    for plan in facts.job.subnets:
        net = IPv4Network(plan.cidr)
        if not (net.is_private or net.subnet_of(SHARED)):
            yield Finding(
                PUBLIC_RANGE,
                Severity.WARNING,
                f"{plan.name}: {plan.cidr} is a public range",
                "The real owners of these addresses cannot be reached from the site, and remote viewing may go to the wrong "
                "place.",
                "Use a private range: 10.0.0.0/8, 172.16.0.0/12 or 192.168.0.0/16.",
                (plan.id,),
            )


GATEWAY_NO_ROUTER = FindingKind("gateway-no-router", "addresses")


@reads("links", "subnets", *of_devices("name", "address"), "network.role")
def gateway_is_no_router(facts: Facts) -> Iterator[Finding]:
    """A gateway inside its subnet that is none of the job's routers there, though there is one."""
    # One that stands unplugged in a wired job is no way out yet.
    plugged = {end for link in facts.job.links for end in (link.a, link.b)}
    routers = [one for one in facts.job.network if one.role == "router" and one.address]
    routers = [one for one in routers if not plugged or one.id in plugged]
    for plan in facts.job.subnets:
        net = subnet_of(plan.cidr)
        inside = [router for router in routers if address_number(router.address) in net]
        # One outside the subnet is told as such.
        if not plan.gateway or not inside or address_number(plan.gateway) not in net:
            continue
        if any(router.address == plan.gateway for router in inside):
            continue
        router = inside[0]
        yield Finding(
            GATEWAY_NO_ROUTER,
            Severity.WARNING,
            f"{plan.name}: gateway {plan.gateway}, but router at {router.address}",
            "No router of the job has the gateway's address, so remote viewing and outside time servers fail.",
            f"Make {router.address} of {router.name} the gateway, or add the router that has {plan.gateway}.",
            (plan.id, router.id),
            set_subnet(plan.id, f"Use gateway {router.address}", gateway=router.address),
        )


NO_GATEWAY = FindingKind("no-gateway", "addresses")


@reads("subnets", *of_devices("subnet"), "network.role", "network.upload_mbps", "network.viewed_streams")
def no_gateway(facts: Facts) -> Iterator[Finding]:
    """A subnet without a gateway, although a router in it is to be viewed through from outside."""
    for router in facts.job.network:
        plan = facts.subnets.get(router.subnet)
        watched = router.role == "router" and router.upload_mbps is not None and router.viewed_streams
        if watched and plan is not None and not plan.gateway:
            yield Finding(
                NO_GATEWAY,
                Severity.WARNING,
                f"{plan.name} has no gateway, but remote viewing is planned",
                "Without a gateway no device there reaches beyond its subnet: no remote viewing, no time server, no messages.",
                "Enter the router's address as the gateway.",
                (plan.id, router.id),
                set_subnet(plan.id, f"Use gateway {router.address}", gateway=router.address)
                if router.address
                else None,
            )


def is_older(has: str, wanted: str) -> bool:
    """Whether a firmware is older than another; what has no numbers is not compared."""
    mine, other = ([int(part) for part in re.findall(r"\d+", text)[:6]] for text in (has, wanted))
    return bool(mine and other) and mine < other


FIRMWARE_OLD = FindingKind("firmware-old", "bench")


@reads("make_profiles", *of_devices("name", "make", "firmware"))
def firmware_old(facts: Facts) -> Iterator[Finding]:
    """Firmware older than the make profile wants: known holes stay open, and makes refuse each other."""
    for profile in facts.job.make_profiles:
        if not profile.make:
            continue
        old = [
            device
            for device in facts.devices
            if device.firmware
            and profile_of(device.make, facts.job.make_profiles) is profile
            and is_older(device.firmware, profile.firmware_now)
        ]
        if old:
            yield Finding(
                FIRMWARE_OLD,
                Severity.WARNING,
                f"{names_listed([device.name for device in old])}: firmware older than {profile.firmware_now}",
                f"{profile.make} has corrected faults since then, some of which attackers use.",
                "Update the firmware on the bench; the commissioning plan has the step.",
                tuple(device.id for device in old),
            )


RULES = (same_serial, group_mac_address, public_range, gateway_is_no_router, no_gateway, firmware_old)
