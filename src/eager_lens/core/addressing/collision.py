"""The chance that an address frozen inside the DHCP pool is leased to somebody else."""

from __future__ import annotations

MONTHS_TOLD = 6
"""So many months ahead the chance is told."""


def collision_share(pool_size: int, leased: int, new_per_month: float, months: float) -> float:
    """The chance (0 to 1) that a frozen address is leased within a number of months.

    Every device that is new to the server gets one of the free addresses, each as likely; the server takes the frozen
    one for free, since whoever froze it no longer asks for it. Known devices get back what they had, so that each newcomer
    takes one away from those that are left: of n newcomers and f free addresses the chance is n / f. Servers that
    lease from the bottom up take low addresses sooner than this says and high ones later; one that first asks whether an
    address answers leases it only while the device is off.

    Args:
        pool_size: addresses that are leased. leased: how many of them are in use. new_per_month: new devices a month.
        months: how far ahead.
    """
    return min(1.0, new_per_month * months / max(1, pool_size - leased))
