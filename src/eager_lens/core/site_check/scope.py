"""What a check of the site may send, and where to: the subnets of the job that the laptop is in, private addresses only."""

from __future__ import annotations

import ipaddress
from collections.abc import Iterable, Sequence
from typing import NamedTuple

from eager_lens.core.addressing.ipv4 import Subnet, address_number, address_text, subnet_around, subnet_of
from eager_lens.core.job.make_profiles import MakeProfile, profile_of
from eager_lens.core.job.model import Camera, Job, Recorder, role_of
from eager_lens.core.planning.addressing import free_from_end
from eager_lens.core.reference.roles import Role
from eager_lens.core.site_check.readings import Switches
from eager_lens.core.units import count, figure

PROBES_A_SECOND = 50
MOST_SWEPT = 1022
"""Of a subnet larger than this (a /22) only the planned addresses are looked at."""

MOST_NAMED = 4


class Interface(NamedTuple):
    """An interface of the laptop with an address."""

    name: str
    address: int
    prefix: int

    @property
    def subnet(self) -> Subnet:
        """The subnet that it is in."""
        return subnet_around(self.address, self.prefix)

    @property
    def words(self) -> str:
        """Its address, size and name."""
        return f"{address_text(self.address)}/{self.prefix} ({self.name})"


def everywhere(job: Job) -> list[Interface]:
    """The interfaces of a computer on whose loopback all subnets of a job are."""
    nets = [subnet_of(plan.cidr) for plan in job.subnets]
    return [Interface("lo", net.last_host, net.prefix) for net in nets]


class Target(NamedTuple):
    """A device of the job as a check needs it. ``certificate``: SHA-256 of the one that it showed over TLS before; empty: none
    is known."""

    device: str
    role: Role
    address: int
    profile: MakeProfile
    event_port: int
    has_streams: bool
    has_substream: bool
    certificate: str = ""


class Scope(NamedTuple):
    """Where a check goes.

    Attributes:
        interfaces: those of the laptop that are in a subnet of the job. sweep: all addresses that are probed, planned first.
        targets: the devices that may be looked at. not_reached: subnets of the job that the laptop is not in, with an address
            that it could take there. refused: what is not looked at, with why.
        first_addresses: default addresses of makes that are looked at too.
    """

    interfaces: tuple[Interface, ...]
    subnets: tuple[Subnet, ...]
    sweep: tuple[int, ...]
    targets: tuple[Target, ...]
    not_reached: tuple[str, ...]
    refused: tuple[str, ...]
    first_addresses: frozenset[int] = frozenset()

    def allows(self, number: int) -> bool:
        """Whether a check may send anything to an address."""
        if number in self.first_addresses:
            return True
        return is_private(number) and any(number in net and net.is_host(number) for net in self.subnets)


def is_private(number: int) -> bool:
    """Whether an address is one of those that never leave a site (RFC 1918), or link-local."""
    address = ipaddress.IPv4Address(number)
    return any(address in net for net in _PRIVATE)


_PRIVATE = tuple(
    ipaddress.IPv4Network(text) for text in ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16")
)


def scope_of(job: Job, interfaces: Sequence[Interface], switches: Switches) -> Scope:
    """Where a check of a job goes from a laptop with these interfaces."""
    own = {one.address for one in interfaces}
    held = {address_number(device.address) for device in job.devices() if device.address}
    nets, used, not_reached, refused = [], list[Interface](), [], []
    for plan in job.subnets:
        net = subnet_of(plan.cidr)
        if not is_private(net.network) or not is_private(net.broadcast):
            refused.append(f"{plan.name} ({plan.cidr}): not a private range, and only the site itself is checked")
            continue
        near = [one for one in interfaces if one.address in net]
        if not near:
            free = free_from_end(plan, held)
            such = f", such as {address_text(free)}/{net.prefix}" if free else ""
            not_reached.append(f"{plan.name} ({plan.cidr}): the laptop needs an address there{such}")
            continue
        # What the laptop takes to be outside its own subnet would go to a gateway, and who knows where from there.
        own_nets = [net if net.prefix >= one.prefix else one.subnet for one in near]
        nets += [one for one in own_nets if one not in nets]
        used = list(dict.fromkeys((*used, *near)))
        if net not in own_nets:
            not_reached.append(
                f"{plan.name} ({plan.cidr}): only {', '.join(map(_subnet_words, own_nets))} of it, because of the laptop's "
                f"prefix length; give it /{net.prefix}"
            )
    targets = tuple(target for target in _targets(job) if any(net.is_host(target.address) for net in nets))
    if switches.only:
        targets = tuple(target for target in targets if target.device in switches.only)
    sweep = list(dict.fromkeys(target.address for target in targets))
    if switches.sweep and not switches.only:
        for net in nets:
            if net.hosts > MOST_SWEPT:
                refused.append(
                    f"{_subnet_words(net)}: {figure(net.hosts)} addresses are too many to try; only planned ones are checked"
                )
                continue
            sweep += range(net.first_host, net.last_host + 1)
    first = frozenset[int]()
    if switches.first_addresses:
        first, near, far = _first_addresses(job, interfaces)
        used = list(dict.fromkeys((*used, *near)))
        not_reached += far
        sweep += sorted(first)
    swept = tuple(number for number in dict.fromkeys(sweep) if number not in own)
    return Scope(tuple(used), tuple(nets), swept, targets, tuple(not_reached), tuple(refused), first)


def _first_addresses(job: Job, interfaces: Sequence[Interface]) -> tuple[frozenset[int], list[Interface], list[str]]:
    """Default addresses of the job's makes: those that the laptop is near, over which interfaces, and in words the others."""
    found: set[int] = set()
    near: list[Interface] = []
    far: list[str] = []
    makes = {
        one.make: one for one in (profile_of(each.make, job.make_profiles) for each in (*job.recorders, *job.cameras))
    }
    for profile in makes.values():
        number = address_number(profile.first_address) if profile.first_address else 0
        if not number or not is_private(number):
            continue
        own = [one for one in interfaces if number in one.subnet]
        if own:
            found.add(number)
            near += own
            continue
        net = subnet_around(number, profile.first_prefix)
        free = net.last_host if net.last_host != number else net.first_host
        make = f"{profile.make} out of the box" if profile.make else "Devices out of the box"
        far.append(
            f"{make} ({profile.first_address}): the laptop needs an address there, such as {address_text(free)}/{net.prefix}"
        )
    return frozenset(found), near, far


def _subnet_words(net: Subnet) -> str:
    return f"{address_text(net.network)}/{net.prefix}"


def targets_of(job: Job) -> list[Target]:
    """All devices of a job with their planned addresses."""
    return list(_targets(job))


def _targets(job: Job) -> Iterable[Target]:
    for device in job.devices():
        profile, role = profile_of(device.make, job.make_profiles), role_of(device)
        event_port = device.event_tcp_port if isinstance(device, Recorder) and device.takes_events else 0
        substream = isinstance(device, Camera) and device.substream_mbps > 0
        for address in _addresses(device):
            has_streams, certificate = isinstance(device, Camera), device.certificate_sha256
            yield Target(device.id, role, address, profile, event_port, has_streams, substream, certificate)


def _addresses(device: object) -> list[int]:
    texts = [getattr(device, "address", "")]
    if isinstance(device, Recorder):
        texts.append(device.camera_interface_address)
    return [address_number(text) for text in texts if text]


def words_of(scope: Scope, switches: Switches) -> tuple[str, ...]:
    """What a check will send, to which addresses, over which interface: to be read before it sends anything."""
    if not scope.interfaces:
        return ("Nothing: the laptop has no address in any subnet of the job.", *scope.not_reached, *scope.refused)
    lines = [f"From {', '.join(one.words for one in scope.interfaces[:MOST_NAMED])}{_more(len(scope.interfaces))}."]
    nets = [_subnet_words(net) for net in scope.subnets]
    lines.append(
        f"A connection to the web port of {count(len(scope.sweep), 'address', 'addresses')} in "
        f"{', '.join(nets[:MOST_NAMED])}{_more(len(nets))}, and an ARP request if this account may send one: at most "
        f"{PROBES_A_SECOND} a second."
    )
    if switches.search:
        lines.append(
            "A search for cameras (WS-Discovery), by multicast on the same interfaces, and to planned addresses that do not "
            "answer it."
        )
    lines.append(
        f"Questions by the open protocol to {count(len(scope.targets), 'device')}: identity, network, time, users, streams, "
        "picture, motion rule, events and recordings. Nothing is set."
    )
    cameras = sum(target.has_streams for target in scope.targets)
    if switches.log_in:
        lines.append(
            f"One log-in at each of {count(len(scope.targets), 'device')} with a noted password; none after a refusal, because "
            "devices lock accounts."
        )
    if switches.default_passwords:
        lines.append(
            "Without a noted password, the default password of the make, once: a device that accepts it is open to anyone."
        )
    if switches.stream and cameras:
        both = " and its substream" if switches.substream else ""
        lines.append(f"The main stream of {count(cameras, 'camera')}{both}, for {figure(switches.stream_s)} s each.")
    if switches.events and any(target.event_port for target in scope.targets):
        lines.append("A connection to the recorders' event ports, without a message.")
    return (*lines, *(f"Not checked: {words}." for words in (*scope.not_reached, *scope.refused)))


def _more(many: int) -> str:
    return f" and {many - MOST_NAMED} more" if many > MOST_NAMED else ""
