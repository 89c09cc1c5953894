"""How a figure came about: formula, inputs with unit and origin, source. Made only when somebody asks.

A figure is named by a ``FigureRef`` (its kind and the id of what it belongs to), so that any view can ask for the
working of any figure without knowing how it is made.
"""

from collections.abc import Callable, Container
from dataclasses import replace

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.radio import radio_figures
from eager_lens.core.present.workings import progress, storage, view, wiring
from eager_lens.core.present.workings.base import FigureKind, FigureRef, Working, WorkingLine, in_words, with_unit

__all__ = ["FigureKind", "FigureRef", "Working", "WorkingLine", "with_unit", "working_of"]


def working_of(ref: FigureRef, assessment: Assessment) -> Working | None:
    """The working of a figure, or None when what it belongs to is no longer there."""
    if ref.subject and ref.subject not in _known(ref.kind, assessment):
        return None
    made = _MAKERS[ref.kind](ref.subject, assessment)
    return replace(made, formula=in_words(made.formula), source=in_words(made.source))


def _known(kind: FigureKind, assessment: Assessment) -> Container[str]:
    """Ids of what has a figure of this kind."""
    facts = assessment.facts
    if kind in ("rate", "gb-per-day", "volts", "view"):
        return facts.camera_figures
    if kind == "load":
        return facts.topology.loads
    if kind == "radio":
        return {link.id for link in facts.job.links if radio_figures(link) is not None}
    if kind == "unit":
        return {unit.id for unit in facts.job.power_units}
    if kind in ("power", "stops"):
        return facts.by_device_id.keys() | {link.id for link in facts.job.links}
    return facts.recorder_figures


_MAKERS: dict[FigureKind, Callable[[str, Assessment], Working]] = {
    "days": storage.days,
    "incoming": storage.incoming,
    "drives": storage.drives,
    "view": view.view,
    "rate": storage.rate,
    "gb-per-day": storage.gb_per_day,
    "volts": wiring.volts,
    "power": wiring.power,
    "load": wiring.load,
    "stops": wiring.stops,
    "unit": wiring.unit,
    "radio": wiring.radio,
    "channels": progress.channels,
    "addresses": progress.addresses,
    "steps": progress.steps,
}
