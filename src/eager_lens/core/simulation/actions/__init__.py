"""The actions of the person at the bench, by name, and doing one."""

from __future__ import annotations

from eager_lens.core.errors import RefusedInput
from eager_lens.core.simulation.actions.base import ActionKind, ActionOutcome, Values
from eager_lens.core.simulation.actions.handling import HANDLING
from eager_lens.core.simulation.actions.looking import LOOKING
from eager_lens.core.simulation.actions.recording import RECORDING
from eager_lens.core.simulation.actions.servicing import SERVICING
from eager_lens.core.simulation.actions.setting import SETTING
from eager_lens.core.simulation.site import Site

SITE_ACTIONS: dict[str, ActionKind] = {
    kind.name: kind for kind in (*HANDLING, *LOOKING, *SETTING, *RECORDING, *SERVICING)
}


def do(site: Site, name: str, unit_id: str, values: Values) -> ActionOutcome:
    """Do an action now, and let all that follows at once follow.

    Raises:
        RefusedInput: when there is no such action or device, the action is not for it, or a value makes no sense; then
            nothing has happened.
    """
    kind = SITE_ACTIONS.get(name)
    if kind is None:
        raise RefusedInput("do", f"{name!r} is nothing that can be done here; known are {', '.join(SITE_ACTIONS)}")
    unit = site.units.get(unit_id or "laptop")
    if unit is None:
        raise RefusedInput("device", f"the job has no device {unit_id!r}; it was taken out, or belongs to another job")
    if unit.role not in kind.roles:
        raise RefusedInput("device", f"“{kind.label}” is nothing to do to {unit.name}")
    outcome = kind.act(site, unit, values)
    site.settle()
    return outcome
