"""What a run over the network leaves in the job and its log: steps of the plan that are done, and each setting with before and
after."""

from __future__ import annotations

from collections.abc import Iterator

from eager_lens.core.commission.act import ActKind
from eager_lens.core.commission.ledger import Run
from eager_lens.core.commission.report import DeviceReport, report_of
from eager_lens.core.records.event_log.entry import Event
from eager_lens.core.units import count

SET_UP: frozenset[ActKind] = frozenset({"first user", "password", "address", "gateway"})
SETTINGS: frozenset[ActKind] = frozenset({"clock", "time server", "stream"})


def steps_done(run: Run) -> tuple[str, ...]:
    """Keys of the steps of the commissioning plan that a run did, or found done: set-up, settings, and each registration."""
    found = []
    for one in report_of(run):
        if one.plan.refused:
            continue
        if _is_done(one, SET_UP):
            found.append(f"{one.plan.device}/set-up")
            if _is_done(one, SETTINGS):
                found.append(f"{one.plan.device}/settings")
        for report in one.acts:
            if report.act.kind == "channel" and report.is_done:
                found.append(f"{report.act.values['camera']}/{one.plan.device}")
    return tuple(found)


def _is_done(one: DeviceReport, kinds: frozenset[ActKind]) -> bool:
    left_to_hands = any(hand.kind in kinds for hand in one.plan.by_hand)
    return not left_to_hands and all(report.is_done for report in one.acts if report.act.kind in kinds)


def events_of_run(run: Run) -> Iterator[Event]:
    """What a run is in the log: an entry for each act that was begun, with each setting before and after. Users come without
    their passwords."""
    words = "Put back" if run.head.puts_back else "Set"
    for one in report_of(run):
        for report in one.acts:
            line = report.line
            if line is None:
                continue
            values = {row.what: f"{row.now} → {row.will_be}" for row in report.act.settings}
            outcome = report.words
            what = (
                f"{words} {one.plan.name}: {count(len(report.act.settings), 'setting')} ({report.act.kind}), {outcome}"
            )
            yield Event("set device", what, (one.plan.device,), values)
