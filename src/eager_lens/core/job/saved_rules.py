"""Motion rules under a name: saved, given to cameras, taken away, as edits of the job."""

from __future__ import annotations

from collections.abc import Sequence

from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import Edit, set_fields, with_parts
from eager_lens.core.job.model import Job, SavedRule, by_id, changed, fresh_ids
from eager_lens.core.units import count
from eager_lens.core.values.motion_rule import MotionRule


def save_rule(name: str, rule: MotionRule) -> Edit:
    """Save a rule under a name; one of the same name is replaced, and what cameras have stays as it is."""

    def apply(job: Job) -> Job:
        bare = name.strip()
        if not bare:
            raise RefusedInput("name", "give the rule a name, such as “Yards in wind”")
        known = next((saved for saved in job.rules if saved.name == bare), None)
        if known is not None:
            new = changed(known, rule=rule)
            return with_parts(job, rules=tuple(new if saved is known else saved for saved in job.rules))
        (new_id,) = fresh_ids("rule", (saved.id for saved in job.rules), 1)
        return with_parts(job, rules=(*job.rules, changed(SavedRule(id=new_id, name="new", rule=rule), name=bare)))

    return Edit(f"Save the rule “{name.strip()[:40]}”", apply)


def remove_rule(rule_id: str) -> Edit:
    """Take a saved rule away; cameras keep their settings."""
    return Edit(
        "Remove a saved rule",
        lambda job: with_parts(job, rules=tuple(saved for saved in job.rules if saved.id != rule_id)),
    )


def give_rule(job: Job, rule_id: str, camera_ids: Sequence[str]) -> Edit:
    """Give a saved rule to cameras.

    Raises:
        RefusedInput: when there is no such rule.
    """
    saved = by_id(job.rules).get(rule_id)
    if saved is None:
        raise RefusedInput("rule", "the saved rule is no longer there; select another")
    return set_fields(camera_ids, f"“{saved.name[:40]}” for {count(len(camera_ids), 'camera')}", motion_rule=saved.rule)


def name_of(job: Job, rule: MotionRule) -> str:
    """The name under which a rule is saved, or nothing."""
    return next((saved.name for saved in job.rules if saved.rule == rule), "")
