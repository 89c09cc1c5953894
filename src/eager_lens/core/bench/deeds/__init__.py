"""The deeds of the person at the bench, by name, and doing one."""

from __future__ import annotations

from eager_lens.core.bench.deeds.base import DeedKind, Outcome, Values
from eager_lens.core.bench.deeds.handling import HANDLING
from eager_lens.core.bench.deeds.looking import LOOKING
from eager_lens.core.bench.deeds.recording import RECORDING
from eager_lens.core.bench.deeds.setting import SETTING
from eager_lens.core.bench.site import Site
from eager_lens.core.errors import RefusedInput

DEEDS: dict[str, DeedKind] = {kind.name: kind for kind in (*HANDLING, *LOOKING, *SETTING, *RECORDING)}


def do(site: Site, name: str, unit_id: str, values: Values) -> Outcome:
    """Do a deed now, and let all that follows at once follow.

    Raises:
        RefusedInput: when there is no such deed or device, the deed is not for it, or a value makes no sense; then
            nothing has happened.
    """
    kind = DEEDS.get(name)
    if kind is None:
        raise RefusedInput("do", f"{name!r} is nothing that can be done here; known are {', '.join(DEEDS)}")
    unit = site.units.get(unit_id or "laptop")
    if unit is None:
        raise RefusedInput("device", f"the job has no device {unit_id!r}; it was taken out, or belongs to another job")
    if unit.role not in kind.roles:
        raise RefusedInput("device", f"“{kind.label}” is nothing to do to {unit.name}")
    outcome = kind.act(site, unit, values)
    site.settle()
    return outcome
