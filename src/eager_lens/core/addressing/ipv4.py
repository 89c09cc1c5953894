"""Reading IPv4 addresses and subnets, strictly, into whole numbers that are quick to compare."""

import ipaddress
import re
from functools import lru_cache
from typing import NamedTuple

_CIDR = re.compile(r"(?P<network>[0-9.]+)/(?P<prefix>[1-9][0-9]?)", re.ASCII)
_HARDWARE = re.compile(r"[0-9a-f]{12}", re.ASCII)

WIDEST_PREFIX, NARROWEST_PREFIX = 8, 30


@lru_cache(maxsize=65536)
def address_number(text: str) -> int:
    """A dotted address as a whole number.

    Raises:
        ValueError: for anything but four decimal parts of 0 to 255 without leading zeros.
    """
    try:
        return int(ipaddress.IPv4Address(text))
    except ipaddress.AddressValueError:
        raise ValueError(
            f"{text!r} is not an IPv4 address; enter four numbers of 0 to 255 with dots, without leading zeros"
        ) from None


@lru_cache(maxsize=65536)
def address_text(number: int) -> str:
    """A whole number as a dotted address."""
    return str(ipaddress.IPv4Address(number))


class Subnet(NamedTuple):
    """A subnet as its first (network) and last (broadcast) address."""

    network: int
    broadcast: int

    @property
    def first_host(self) -> int:
        """The lowest address a device may have."""
        return self.network + 1

    @property
    def last_host(self) -> int:
        """The highest address a device may have."""
        return self.broadcast - 1

    @property
    def hosts(self) -> int:
        """How many addresses devices may have, the gateway's counted."""
        return self.broadcast - self.network - 1

    @property
    def prefix(self) -> int:
        """The length of the network part, in bits."""
        return 32 - (self.broadcast - self.network).bit_length()

    @property
    def mask_text(self) -> str:
        """The mask as a dotted address, as typed into a device."""
        return address_text(0xFFFFFFFF ^ (self.broadcast - self.network))

    def __contains__(self, number: object) -> bool:
        return isinstance(number, int) and self.network <= number <= self.broadcast

    def is_host(self, number: int) -> bool:
        """Whether a device may have this address."""
        return self.network < number < self.broadcast


@lru_cache(maxsize=4096)
def subnet_of(cidr: str) -> Subnet:
    """A subnet written as ``172.22.40.0/24``.

    Raises:
        ValueError: for another form, a size outside /8 to /30, or bits set behind the prefix.
    """
    match = _CIDR.fullmatch(cidr)
    if not match:
        raise ValueError(
            f"{cidr!r} is not a subnet; enter an address, a slash and a prefix length, such as 172.22.40.0/24"
        )
    network = address_number(match["network"])
    prefix = int(match["prefix"])
    if not WIDEST_PREFIX <= prefix <= NARROWEST_PREFIX:
        raise ValueError(f"{cidr!r} has prefix length /{prefix}; allowed is /{WIDEST_PREFIX} to /{NARROWEST_PREFIX}")
    spread = (1 << (32 - prefix)) - 1
    if network & spread:
        right = address_text(network & ~spread)
        raise ValueError(f"{cidr!r} has host bits set; the subnet is {right}/{prefix}")
    return Subnet(network, network + spread)


def subnet_around(number: int, prefix: int) -> Subnet:
    """The subnet of a size that an address is in."""
    spread = (1 << (32 - prefix)) - 1
    return Subnet(number & ~spread, number | spread)


@lru_cache(maxsize=65536)
def mac_address(text: str) -> str:
    """A MAC address in any usual spelling as ``02:4c:00:00:00:1f``; empty stays empty.

    Raises:
        ValueError: when there are not twelve hexadecimal digits.
    """
    if not text.strip():
        return ""
    parts = re.split(r"[:-]", text.strip())
    if len(parts) == 6 and all(parts):
        parts = [part.rjust(2, "0") for part in parts]  # some systems write 0:5b:1e:0:0:40
    digits = re.sub(r"[\s:.\-]", "", "".join(parts)).lower()
    if not _HARDWARE.fullmatch(digits):
        raise ValueError(f"{text!r} is not a MAC address; enter twelve hexadecimal digits")
    return ":".join(digits[at : at + 2] for at in range(0, 12, 2))


def mac_or_nothing(text: str) -> str:
    """As ``mac_address``; empty for what is none, as devices may tell."""
    try:
        return mac_address(text)
    except ValueError:
        return ""
