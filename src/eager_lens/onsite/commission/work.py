"""The loop that carries a plan out, and tells what it does."""

from __future__ import annotations

import asyncio
from collections.abc import Generator
from pathlib import Path
from typing import Any

from eager_lens.core.commission.act import SetPlan
from eager_lens.core.commission.ledger import Ledger
from eager_lens.core.job.file import job_from_text
from eager_lens.core.no_dumps import not_to_be_looked_into
from eager_lens.core.site_check.readings import Switches
from eager_lens.core.site_check.scope import everywhere, scope_of
from eager_lens.core.validation import read_as
from eager_lens.onsite.check import laptop
from eager_lens.onsite.check.network import Network
from eager_lens.onsite.check.pins import pins_for
from eager_lens.onsite.check.visit import next_report
from eager_lens.onsite.commission.carrying import Carrying
from eager_lens.onsite.commission.wire import Wire

Report = tuple[str, Any]


def carrying_out(
    job_text: str, plan: dict[str, Any], passwords: dict[str, str], here: dict[str, Any], places: dict[str, Any]
) -> Generator[Report, None, None]:
    """As ``run.setting``, in the right network already."""
    not_to_be_looked_into()
    job, network = job_from_text(job_text), Network(here)
    wanted = read_as(SetPlan, plan)
    own = everywhere(job) if network.on_loopback else laptop.interfaces()
    scope = scope_of(job, own, Switches(first_addresses=True, sweep=False))
    if network.site_password is not None:
        passwords = {device.id: passwords.get(device.id, network.site_password) for device in job.devices()}
    shares = any(one.shared for one in wanted.to_set)
    pins = pins_for(scope.interfaces, places["may_ask"]) if shares and not network.on_loopback else None
    ledger = Ledger(Path(places["ledger"]))
    reports: asyncio.Queue[Report] = asyncio.Queue()
    total = max(1, sum(len(one.acts) for one in wanted.to_set))
    ended = 0

    def tell(kind: str, value: Any) -> None:
        nonlocal ended
        reports.put_nowait((kind, value))
        if kind == "line" and value["state"] != "begun":
            ended += 1
            reports.put_nowait(("share", min(1.0, ended / total)))

    carrying = Carrying(
        job, wanted, passwords, Wire(network), pins, ledger, tell, Path(places["stop"]), places["puts_back"]
    )
    loop = asyncio.new_event_loop()
    try:
        task = loop.create_task(carrying.run())
        while (report := loop.run_until_complete(next_report(reports, task))) is not None:
            yield report
        task.result()
    finally:
        loop.close()
        ledger.close()
        if pins is not None:
            pins.close()
