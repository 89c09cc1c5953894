"""The roles of devices, in one table: letter, place among addresses, time to start, and when each is commissioned."""

from __future__ import annotations

from typing import Literal, NamedTuple

Role = Literal["router", "switch", "recorder", "camera", "bridge", "other"]


class RoleRecord(NamedTuple):
    """What the program knows of a role.

    Attributes:
        id, plural: the role's word, and its plural in sentences.
        letter: what stands for it in the mosaic of addresses.
        first_256th: where the search for a free address begins, as 256ths of the subnet: in a /24 switches from .4,
            bridges from .10, recorders from .20, cameras from .40.
        start_s: from power to ready, where a make is not described (assumed). A camera's is that of the usual make.
        powered: when it is given power at commissioning, the lowest first; None: not with the network, but when its turn
            comes to be set up.
        hosts_laptop: how well the laptop is placed on it, the lowest best; None: nobody plugs one in there.
    """

    id: Role
    plural: str
    letter: str
    first_256th: int
    start_s: float | None
    powered: int | None
    hosts_laptop: int | None


ROLE_RECORDS: dict[Role, RoleRecord] = {
    record.id: record
    for record in (
        RoleRecord("router", "routers", "R", 2, 60.0, 1, 1),
        RoleRecord("switch", "switches", "S", 4, 25.0, 2, 0),
        # Recorders have power first, for they take longest.
        RoleRecord("recorder", "recorders", "V", 20, 150.0, 0, 1),
        RoleRecord("camera", "cameras", "C", 40, None, None, None),
        RoleRecord("bridge", "bridges", "B", 10, 70.0, None, 2),
        RoleRecord("other", "other devices", "O", 224, 10.0, 3, None),
    )
}

ROLES: tuple[Role, ...] = tuple(ROLE_RECORDS)

SUPPLY_START_S = 0.0
"""A power supply or an injector gives power at once."""
