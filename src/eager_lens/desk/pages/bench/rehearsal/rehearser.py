"""The running rehearsal: the simulated site of the job, its clock, and the actions that are done and remembered."""

from __future__ import annotations

import time
from collections.abc import Mapping
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import RefusedInput
from eager_lens.core.job.edits import set_rehearsal
from eager_lens.core.job.model import Job, changed
from eager_lens.core.job.rehearsal import LONGEST_S, Rehearsal, SiteAction
from eager_lens.core.practice.costs import cost_min
from eager_lens.core.runbook.next_step import NextStep, next_step
from eager_lens.core.runbook.play import Played, playing
from eager_lens.core.runbook.steps import Step
from eager_lens.core.runbook.timing import Placed
from eager_lens.core.simulation.actions import SITE_ACTIONS, do
from eager_lens.core.simulation.actions.base import ActionOutcome
from eager_lens.core.simulation.actions.servicing import FINDER_TEST
from eager_lens.core.simulation.build import site_of
from eager_lens.core.simulation.replay import Replay, replaying
from eager_lens.core.simulation.site import Site
from eager_lens.core.units import count
from eager_lens.desk.background import Task, Work
from eager_lens.desk.session import Session
from eager_lens.desk.widgets.busy import Busy

TICK_MS = 100
SPEEDS = (1, 10, 60, 600)


def _made_of(job: Job) -> tuple[Any, ...]:
    """What of a job its site is built from: as long as these stay the same objects, the site stands."""
    return (
        job.cameras,
        job.recorders,
        job.network,
        job.links,
        job.power_units,
        job.subnets,
        job.make_profiles,
        job.time_zone,
    )


LATE_S = 60.0
"""By so much longer than planned is worth a word."""


class Rehearser(QObject):
    """Holds the site. The job remembers the actions; when it has others, or other devices, the site is built anew."""

    changed = Signal()
    """The site, or whether it runs or is being built."""
    passed = Signal()
    """Time passed on the site."""

    def __init__(self, session: Session, view: QWidget) -> None:
        super().__init__(view)
        self._session = session
        self.busy = Busy(session, view)
        self.busy.changed.connect(self._busy_changed)
        self.site: Site | None = None
        self.speed = 10
        self._own: Rehearsal | None = None
        self._playing = False
        self._parts: tuple[Any, ...] = ()
        self._building: tuple[Rehearsal, tuple[Any, ...]] | None = None
        self._timer = QTimer(self, interval=TICK_MS)
        self._timer.timeout.connect(self._tick)
        self._last = 0.0

    def _busy_changed(self) -> None:
        if not self.busy.is_running:
            self._playing = False
        self.changed.emit()

    # ---- the site follows the job ---------------------------------------------------------------------------------

    def follow(self, assessment: Assessment) -> None:
        """Build the site of the job's rehearsal, unless it stands already."""
        job = assessment.job
        parts = _made_of(job)
        if self._playing:
            return
        if job.rehearsal is None:
            self.pause(keep=False)
            self.busy.stop()
            self.site, self._own, self._building = None, None, None
            self.changed.emit()
        elif not self._stands(job, parts):
            self._build(assessment, job.rehearsal, parts)

    def _stands(self, job: Job, parts: tuple[Any, ...]) -> bool:
        """Whether the site of this job's rehearsal stands, or is being built."""
        if self._building is not None:
            return self._building[0] is job.rehearsal and _same(self._building[1], parts)
        return self.site is not None and job.rehearsal is self._own and _same(parts, self._parts)

    def _build(self, assessment: Assessment, rehearsal: Rehearsal, parts: tuple[Any, ...]) -> None:
        self.pause(keep=False)
        self.site = None
        self._building = (rehearsal, parts)

        def work(task: Task) -> Work[Replay]:
            replay = yield from replaying(assessment, rehearsal, site_begun)
            return replay

        def done(replay: Replay) -> None:
            self.site, self._own, self._parts, self._building = replay.site, rehearsal, parts, None
            if replay.troubles:
                more = f" and {len(replay.troubles) - 1} more" if len(replay.troubles) > 1 else ""
                self._session.notice(
                    f"The job has changed since: {replay.troubles[0]}{more}. These actions are kept but skipped.",
                    needs=True,
                )
            self.changed.emit()

        self.busy.begin(work, done)
        self.changed.emit()

    # ---- actions -----------------------------------------------------------------------------------------------------

    def begin(self, rehearsal: Rehearsal) -> None:
        """Restart the rehearsal: all devices out of the box."""
        self._session.apply(set_rehearsal("Start a rehearsal", rehearsal))

    def forget(self) -> None:
        """Give the rehearsal up; undo brings it back."""
        self.pause(keep=False)
        self._session.apply(set_rehearsal("Start the rehearsal over", None))

    def do(self, name: str, device: str, values: Mapping[str, str]) -> ActionOutcome | None:
        """Do an action now, and remember it; None, with a notice, when it makes no sense. Nothing has happened then."""
        if self.site is None or self._own is None:
            return None
        if self._own.practice:
            self.site.run_to(min(self.site.now_s + 60 * cost_min(name), LONGEST_S))
        try:
            outcome = do(self.site, name, device, values)
        except RefusedInput as error:
            self._session.notice(str(error), needs=True)
            return None
        action = SiteAction(at_s=self.site.now_s, do=name, device=device, values=dict(values))
        self._remember(SITE_ACTIONS[name].label, (action,))
        return outcome

    def finder_test(self, device: str, words: str, minutes: float) -> None:
        """Note a test that the fault finder had made on the site of a practice; it takes its time there."""
        if self.site is not None and self._own is not None and self._own.practice:
            self.site.run_to(min(self.site.now_s + 60 * minutes, LONGEST_S))
            values = {"words": words[:200]}
            do(self.site, FINDER_TEST, device, values)
            self._remember(
                words[:100], (SiteAction(at_s=self.site.now_s, do=FINDER_TEST, device=device, values=values),)
            )

    @property
    def practice(self) -> str:
        """The code of the practice that goes on; empty for none."""
        return self._own.practice if self._own is not None else ""

    def do_step(self, step: Step) -> None:
        """Do what a step of the commissioning asks for, taking as long as it takes by hand."""
        if self.site is None:
            return
        self.site.run_to(self.site.now_s + step.hands_s)
        actions = []
        for one in step.actions:
            try:
                do(self.site, one.do, one.device, one.values)
            except RefusedInput as error:
                self._session.notice(str(error), needs=True)
                continue
            actions.append(SiteAction(at_s=self.site.now_s, do=one.do, device=one.device, values=dict(one.values)))
        self._remember(step.title[:150], tuple(actions))

    def _remember(self, label: str, actions: tuple[SiteAction, ...], gesture: str | None = None) -> None:
        if self.site is None or self._own is None:
            return
        kept = (*self._own.actions, *actions)
        try:
            self._own = changed(self._own, actions=kept, now_s=min(self.site.now_s, LONGEST_S))
        except RefusedInput as error:
            self._session.notice(f"The rehearsal cannot continue: {error}", needs=True)
            return
        self._session.apply(set_rehearsal(label, self._own, gesture))
        self.changed.emit()

    # ---- time ------------------------------------------------------------------------------------------------------

    @property
    def is_running(self) -> bool:
        """Whether its clock goes."""
        return self._timer.isActive()

    def run(self) -> None:
        """Let the clock go."""
        if self.site is not None and not self.is_running:
            self._last = time.monotonic()
            self._timer.start()
            self.changed.emit()

    def pause(self, keep: bool = True) -> None:
        """Stop the clock; the job remembers how far it came."""
        if self.is_running:
            self._timer.stop()
            if keep:
                self._remember("Wait", (), "rehearsal time")
            self.changed.emit()

    def _tick(self) -> None:
        now = time.monotonic()
        passed_s, self._last = min(now - self._last, 1.0) * self.speed, now
        if self.site is None or self.site.now_s + passed_s >= LONGEST_S:
            self.pause()
            return
        self.site.run_to(self.site.now_s + passed_s)
        self.passed.emit()

    def pass_time(self, seconds: float) -> None:
        """Let some time pass at once."""
        if self.site is not None:
            self.site.run_to(min(self.site.now_s + seconds, LONGEST_S))
            self._remember("Wait", (), "rehearsal time")

    def to_dusk_or_dawn(self) -> None:
        """Run until the cameras take it for night, or for day again."""
        if self.site is not None:
            self.pass_time(self.site.until_dusk_or_dawn_s() + 60)

    def to_next_event(self) -> None:
        """Run until something is logged on the event log, or nothing is due any more."""
        site = self.site
        if site is None:
            return
        lines, begun_s = len(site.log_lines), site.now_s
        while len(site.log_lines) == lines and (due := site.event_queue.next_s) is not None and due < begun_s + 86_400:
            site.step(due)
        if len(site.log_lines) == lines:
            self._session.notice("Nothing more happens by itself within a day")
        self._remember("Wait", (), "rehearsal time")

    def back_to(self, at_s: float) -> None:
        """Go back to a moment: what was done from then on is not done."""
        if self._own is not None:
            kept = tuple(action for action in self._own.actions if action.at_s < at_s)
            self._session.apply(set_rehearsal("Go back in the rehearsal", changed(self._own, actions=kept, now_s=at_s)))

    def back_one(self) -> None:
        """Undo the last action, and the time since."""
        if self._own is not None and self._own.actions:
            last = self._own.actions[-1]
            kept = changed(self._own, actions=self._own.actions[:-1], now_s=last.at_s)
            self._session.apply(set_rehearsal("Undo the last action", kept))

    # ---- the plan --------------------------------------------------------------------------------------------------

    def next_step(self, placed: list[Placed]) -> NextStep | None:
        """Where the site stands in the commissioning."""
        return None if self.site is None else next_step(self.site, placed)

    def play(self, assessment: Assessment, placed: list[Placed]) -> None:
        """Play the whole commissioning on a new site, and keep it as the job's rehearsal."""
        rehearsal = Rehearsal()
        parts = _made_of(assessment.job)

        def work(task: Task) -> Work[tuple[Site, Played]]:
            replay = yield from replaying(assessment, rehearsal)
            played = yield from playing(replay.site, placed)
            return replay.site, played

        def done(result: tuple[Site, Played]) -> None:
            self._playing = False
            site, played = result
            if not _same(parts, _made_of(self._session.job)):
                # The job has changed meanwhile: what was played is not its own.
                self.follow(self._session.assessment)
                return
            self.site, self._parts = site, parts
            self._own = changed(rehearsal, actions=played.actions, now_s=min(site.now_s, LONGEST_S))
            self._session.apply(set_rehearsal("Play the commissioning", self._own))
            receiving = sum(entry.shown == "receiving" for one in site.recorders() for entry in one.entries.values())
            trouble = f"; {next(iter(played.troubles.values()))}" if played.troubles else ""
            late = ""
            if played.late_s >= LATE_S:
                titles = {one.step.key: one.step.title for one in placed}
                late = f", {played.late_s / 60:.0f} min more than planned"
                if played.slowest[1] >= LATE_S:
                    late += f" (waited {played.slowest[1] / 60:.0f} min for “{titles.get(played.slowest[0], '')}”)"
            self._session.notice(
                f"Played in {site.now_s / 60:.0f} simulated min{late}: {count(receiving, 'channel')} receiving{trouble}",
                needs=bool(played.troubles),
            )
            self.changed.emit()

        self.pause(keep=False)
        self.busy.begin(work, done)
        self._playing = True
        self.changed.emit()


def site_begun(assessment: Assessment, rehearsal: Rehearsal) -> Site:
    """The site that a rehearsal begins on: everything out of the box, or that of its practice."""
    if rehearsal.practice:
        from eager_lens.core.practice.drill import site_of_practice  # only those who practise need it

        return site_of_practice(assessment, rehearsal.practice)
    return site_of(assessment, rehearsal)


def _same(one: tuple[Any, ...], other: tuple[Any, ...]) -> bool:
    return len(one) == len(other) and all(
        a is b or (isinstance(a, str) and a == b) for a, b in zip(one, other, strict=True)
    )
