"""Giving every device of a subnet an address: outside the DHCP pool, grouped by role, stable when the list grows."""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from pydantic import Field

from eager_lens.core.addressing.ipv4 import Subnet, address_number, address_text, subnet_of
from eager_lens.core.calculator import Calculator
from eager_lens.core.errors import RefusedInput
from eager_lens.core.reference.roles import ROLE_RECORDS, Role
from eager_lens.core.validation import Plain


class PlanDevice(NamedTuple):
    """A device that wants an address; ``keep`` is the address that it should hold on to, if any."""

    id: str
    role: Role
    keep: int | None


class Room(NamedTuple):
    """What a subnet has to give: hosts that are neither the gateway's nor in the pool nor taken."""

    subnet: Subnet
    gateway: int | None
    pool: tuple[int, int] | None
    taken: frozenset[int]

    def refuses(self, number: int) -> str | None:
        """Why a device may not have this address, or None when it may."""
        if number not in self.subnet:
            return "is outside the subnet"
        if number == self.subnet.network:
            return "is the subnet's own (network) address"
        if number == self.subnet.broadcast:
            return "is the broadcast address"
        if number == self.gateway:
            return "is the gateway's address"
        if self.in_pool(number):
            return "is in the DHCP pool"
        if number in self.taken:
            return "is taken by another device"
        return None

    def in_pool(self, number: int) -> bool:
        """Whether the DHCP server may lease this address."""
        return self.pool is not None and self.pool[0] <= number <= self.pool[1]

    def free_count(self) -> int:
        """How many devices fit. Worked out without walking the subnet, which may hold 16 million addresses."""
        free = self.subnet.hosts
        if self.pool:
            low = max(self.pool[0], self.subnet.first_host)
            high = min(self.pool[1], self.subnet.last_host)
            free -= max(0, high - low + 1)
        outside_pool = set(self.taken) if self.gateway is None else {*self.taken, self.gateway}
        return free - sum(self.subnet.is_host(number) and not self.in_pool(number) for number in outside_pool)


class _Walk:
    """Finds free addresses by role; what was passed over once is not looked at again."""

    def __init__(self, room: Room) -> None:
        self._room = room
        self._given: set[int] = set()
        self._next: dict[Role, int] = {}

    def give(self, number: int) -> None:
        self._given.add(number)

    def free_for(self, role: Role) -> int:
        subnet = self._room.subnet
        number = self._next.get(role) or max(subnet.first_host, subnet.network + _first_of(role, subnet))
        while True:
            if number > subnet.last_host:
                number = subnet.first_host
            if self._room.pool and self._room.in_pool(number):
                number = self._room.pool[1] + 1
            elif number in self._given or self._room.refuses(number):
                number += 1
            else:
                self._next[role] = number + 1
                return number


def _first_of(role: Role, subnet: Subnet) -> int:
    """How far into a subnet the search for a role begins. In one smaller than a /24 in its upper half: there is little
    room, and what people number by hand and want to keep stands low."""
    size, share = subnet.broadcast - subnet.network + 1, ROLE_RECORDS[role].first_256th
    return share * size // 256 if size >= 256 else size // 2 + share * size // 512


def plan_addresses(room: Room, devices: Sequence[PlanDevice]) -> dict[str, int]:
    """An address for every device, by id.

    The list is read from its start and a device never moves for one that comes behind it, so the plan of a list is
    the plan of the shorter list with more added. A ``keep`` is honoured, or refused by the device's id; one that an
    earlier device holds already is refused, for otherwise that device would have to move. Who lists the devices that
    keep something first never meets that.

    Raises:
        RefusedInput: naming the device whose ``keep`` cannot be honoured, or the number of addresses missing.
    """
    for at, device in enumerate(devices):
        if device.keep is not None and (reason := room.refuses(device.keep)):
            raise RefusedInput(
                f"devices[{at}].keep", f"{device.id} cannot keep {address_text(device.keep)}: it {reason}"
            )
    missing = len(devices) - room.free_count()
    if missing > 0:
        raise RefusedInput(
            "devices",
            f"{missing} of {len(devices)} addresses do not fit in the subnet; use a larger subnet or a smaller pool",
        )
    walk = _Walk(room)
    given: dict[str, int] = {}
    holder_of: dict[int, str] = {}
    for at, device in enumerate(devices):
        number = device.keep if device.keep is not None else walk.free_for(device.role)
        if number in holder_of:
            raise RefusedInput(
                f"devices[{at}].keep",
                f"{device.id} cannot keep {address_text(number)}: {holder_of[number]}, earlier in the list, has it already",
            )
        given[device.id] = number
        holder_of[number] = device.id
        walk.give(number)
    return given


class DeviceIn(Plain):
    """A device that wants an address."""

    id: str = Field(strict=True, min_length=1)
    role: Role
    keep: str | None = None


class AddressPlanIn(Plain):
    """A subnet and the devices that want addresses in it."""

    subnet: str
    gateway: str | None
    pool: tuple[str, str] | None = None
    taken: tuple[str, ...] = ()
    devices: tuple[DeviceIn, ...]


class AddressPlanOut(Plain):
    """An address for each device's id."""

    addresses: dict[str, str]


def _number_at(path: str, text: str) -> int:
    try:
        return address_number(text)
    except ValueError as error:
        raise RefusedInput(path, str(error)) from None


def room_from(subnet: str, gateway: str | None, pool: tuple[str, str] | None, taken: Iterable[str]) -> Room:
    """The room of a subnet from its texts.

    Raises:
        RefusedInput: when a text is no address, the gateway no host of the subnet, or the pool not inside it.
    """
    try:
        net = subnet_of(subnet)
    except ValueError as error:
        raise RefusedInput("subnet", str(error)) from None
    gate = None if gateway is None else _number_at("gateway", gateway)
    if gate is not None and not net.is_host(gate):
        raise RefusedInput("gateway", f"{gateway} is not an address for a device in {subnet}")
    lease = None
    if pool is not None:
        lease = (_number_at("pool[0]", pool[0]), _number_at("pool[1]", pool[1]))
        for at, number in enumerate(lease):
            if number not in net:
                raise RefusedInput(f"pool[{at}]", f"{pool[at]} is outside {subnet}")
        if lease[0] > lease[1]:
            raise RefusedInput("pool", f"the first address {pool[0]} comes after the last {pool[1]}")
    return Room(net, gate, lease, frozenset(_number_at(f"taken[{at}]", text) for at, text in enumerate(taken)))


def _keep_of(device: DeviceIn, at: int) -> int | None:
    if device.keep is None:
        return None
    try:
        return address_number(device.keep)
    except ValueError as error:
        raise RefusedInput(f"devices[{at}].keep", f"{device.id} cannot keep it: {error}") from None


def _run(given: AddressPlanIn) -> AddressPlanOut:
    room = room_from(given.subnet, given.gateway, given.pool, given.taken)
    devices = []
    seen: dict[str, int] = {}
    for at, device in enumerate(given.devices):
        if device.id in seen:
            raise RefusedInput(f"devices[{at}].id", f"{device.id} is used already by devices[{seen[device.id]}]")
        seen[device.id] = at
        devices.append(PlanDevice(device.id, device.role, _keep_of(device, at)))
    plan = plan_addresses(room, devices)
    return AddressPlanOut(addresses={device_id: address_text(number) for device_id, number in plan.items()})


ADDRESS_PLAN = Calculator(
    name="address-plan",
    title="Addresses for the devices of a subnet",
    formula="each device in order: its keep, else the first free address from its role's start; never network, "
    "broadcast, gateway, pool, taken",
    source="static outside the pool; stable when devices are added at the end",
    input_model=AddressPlanIn,
    output_model=AddressPlanOut,
    run=_run,
)
