"""A rule tried in a drawn scene before the wind does: a day's sample of it, what it caught and told falsely, and a better one."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

from PySide6.QtWidgets import QLineEdit, QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.errors import EagerLensError
from eager_lens.core.job.edits import Edit, set_fields
from eager_lens.core.job.fields import number_from
from eager_lens.core.job.model import Camera, changed
from eager_lens.core.motion.rule import MovementRule, Zone
from eager_lens.core.motion.view import View, presets
from eager_lens.core.recording.clips import recorded_share
from eager_lens.core.units import count, figure
from eager_lens.desk.background import Task, Work
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, button, column, label, row
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.day_line import DayLine, LineRow
from eager_lens.desk.widgets.scene_view import Marked, SceneView, ZoneShown

if TYPE_CHECKING:
    from eager_lens.core.motion.day import Outcome
    from eager_lens.core.motion.scene import Scene
    from eager_lens.core.motion.tune import Proposal

FIRST_VIEW, SEED = "yard", 1

NOON_S = 12.5 * 3600

SHOWN_NEAR_S = 0.15

FIELDS = (
    ("sensitivity", "Sensitivity", "of 100"),
    ("smallest_m", "Smallest", "m"),
    ("largest_m", "Largest", "m"),
    ("shortest_s", "Moves for", "s"),
)


class Looked(NamedTuple):
    """A scene, and what a rule did in it; the outcome is None while only the picture was drawn."""

    scene: Scene
    rule: MovementRule
    outcome: Outcome | None


class TryView(QWidget):
    """The scene with zones, the rule, the day, and the proposal."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.looked: Looked | None = None
        self.proposal: Proposal | None = None
        self._asked: tuple[str, MovementRule] | None = None
        self.busy = Busy(session, self)
        self._words = label("", "heading", wrap=True)
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self.view = Choice()
        self.view.setAccessibleName("Scene")
        for one in presets().values():
            self.view.addItem(one.words, one.name)
        self.view.currentIndexChanged.connect(lambda _: self._view_chosen())
        self.fields = {name: QLineEdit() for name, _, _ in FIELDS}
        self.look_button = button("Look at a day", self.look_quickly, "main", "A sample of a day; takes some seconds")
        self.whole = button(
            "The whole day", self.look_wholly, "quiet", "Every picture of 24 h; takes minutes, and can be stopped"
        )
        self.suggest = button(
            "Suggest a better rule", self.tune, tip="Tried on this day, proved on days that it has not seen"
        )
        self.scene = SceneView()
        self.scene.drawn.connect(self._zone_drawn)
        self.scene.moved.connect(self._zone_moved)
        self.scene.removed.connect(self._zone_removed)
        self._only_here = button(
            "Look only here", kind="choice", tip="What is dragged is looked at; else it is left out"
        )
        self._causes, self._proposed = label("", "", wrap=True), label("", "", wrap=True)
        self._take = button("Take the rule over", self._take_over, "main")
        self._events = button("Take its events over", self._take_events, tip="Triggers an hour as the camera's events")
        self.day = DayLine()
        self.day.picked.connect(self.show_moment)
        self._lay_out()

    def _lay_out(self) -> None:
        parts: list[QWidget] = []
        for name, words, unit in FIELDS:
            field = self.fields[name]
            field.setAccessibleName(f"{words}, {unit}")
            field.setToolTip(unit)
            field.setMaximumWidth(look.px(64))
            field.editingFinished.connect(lambda name=name: self._typed(name))
            parts += [label(f"{words}, {unit}", "small"), field]
        top = row(
            self.view,
            None,
            self.busy.bar,
            self.busy.stop_button,
            self.whole,
            self.look_button,
            self.suggest,
            spacing=SPACE.TIGHT,
        )
        help_words = label(
            "Drag on the picture to leave a part out. Space chooses a zone, arrows move it, Delete takes it away.",
            "small",
            wrap=True,
        )
        buttons = row(self._take, None), row(self._events, None), row(self._only_here, None)
        side = column(self._causes, self._proposed, *buttons[:2], None, help_words, buttons[2])
        middle = row(self.scene, side, spacing=SPACE.WIDE)
        middle.setStretch(0, 7)
        middle.setStretch(1, 4)
        honest = label(
            "A drawn scene and a generic detector: it shows what settings do, not what your camera's own detector does. "
            "Prove the rule by a walk test on site.",
            "caution",
            wrap=True,
        )
        layout = column(
            top, row(*parts, None, spacing=SPACE.TIGHT), self._words, middle, self.day, honest, spacing=SPACE.HALF
        )
        layout.setStretch(3, 1)
        self.setLayout(layout)

    # ---- what is in focus ------------------------------------------------------------------------------------------

    def camera(self) -> Camera | None:
        """The first chosen camera; else the first of the job."""
        cameras = self.session.job.cameras
        chosen = set(self.session.chosen)
        return next((one for one in cameras if one.id in chosen), cameras[0] if cameras else None)

    def rule(self) -> MovementRule:
        """The rule of the camera in focus, or the default."""
        camera = self.camera()
        return camera.rule if camera is not None and camera.rule is not None else MovementRule()

    def _view(self) -> View:
        return presets()[str(self.view.currentData() or FIRST_VIEW)]

    def show_assessment(self, assessment: Assessment) -> None:
        """Show the camera's rule; a picture is drawn when there is none of this scene yet."""
        camera, rule = self.camera(), self.rule()
        wanted = (
            camera.tried_in if camera is not None and camera.tried_in else str(self.view.currentData() or FIRST_VIEW)
        )
        at = self.view.findData(wanted)
        if at >= 0 and at != self.view.currentIndex():
            self.view.blockSignals(True)
            self.view.setCurrentIndex(at)
            self.view.blockSignals(False)
        for name, _, _ in FIELDS:
            if not self.fields[name].hasFocus():
                self.fields[name].setText(figure(getattr(rule, name), 4))
        for part in (self.look_button, self.suggest, self.whole):
            part.setEnabled(camera is not None)
        self._show()
        if self.looked is None or self.looked.scene.view.name != self._view().name:
            self._draw_scene()

    def _draw_scene(self) -> None:
        view, rule = self._view(), self.rule()

        def work(task: Task) -> Work[Looked]:
            from eager_lens.core.motion.scene import Scene

            yield 0.3
            return Looked(Scene(view, SEED), rule, None)

        self.proposal = None
        self.busy.begin(work, self._take_looked)

    def look_quickly(self) -> None:
        """Take a sample of a day with the rule as it is."""
        view, rule = self._view(), self.rule()

        def work(task: Task) -> Work[Looked]:
            from eager_lens.core.motion.day import quick_look
            from eager_lens.core.motion.scene import Scene

            outcome = yield from quick_look(view, rule, SEED)
            return Looked(Scene(view, SEED), rule, outcome)

        self.busy.begin(work, self._take_looked)

    def look_wholly(self) -> None:
        """Take every picture of a day with the rule as it is."""
        view, rule = self._view(), self.rule()

        def work(task: Task) -> Work[Looked]:
            from eager_lens.core.motion.day import whole_day
            from eager_lens.core.motion.scene import Scene

            outcome = yield from whole_day(view, rule, SEED)
            return Looked(Scene(view, SEED), rule, outcome)

        self.busy.begin(work, self._take_looked)

    def tune(self) -> None:
        """Look for a better rule, and prove it on days that it has not seen."""
        view, rule = self._view(), self.rule()

        def work(task: Task) -> Work[Proposal]:
            from eager_lens.core.motion.tune import tuned

            proposal = yield from tuned(view, rule, SEED)
            return proposal

        self.busy.begin(work, self._take_proposal)

    def _take_looked(self, looked: Looked) -> None:
        self.looked = looked
        self._show()
        alarms = looked.outcome.alarms if looked.outcome is not None else ()
        self.show_moment(alarms[0].begins_s if alarms else NOON_S)

    def _take_proposal(self, proposal: Proposal) -> None:
        self.proposal = proposal
        self._show()

    # ---- drawing ---------------------------------------------------------------------------------------------------

    def _outcome(self) -> Outcome | None:
        """What the rule as it is did in this scene; None when it was not tried so."""
        looked = self.looked
        fits = looked is not None and looked.rule == self.rule() and looked.scene.view.name == self._view().name
        return looked.outcome if looked is not None and fits else None

    def _show(self) -> None:
        camera, outcome = self.camera(), self._outcome()
        if camera is None:
            self._words.setText("Add a camera first; its rule is tried here.")
        elif outcome is None:
            self._words.setText(f"{camera.name}: not tried with these settings yet. Look at a day.")
        else:
            self._words.setText(f"{camera.name}: {_told(outcome)}")
        words = _causes_words(outcome) if outcome is not None else ""
        if outcome is not None and camera is not None and len(outcome.stretches) == 1:
            words += "\n" + _recorded_words(outcome, camera)
        self._causes.setText(words)
        self._show_proposal()
        self._show_zones()
        self._events.setVisible(outcome is not None)
        rows: Sequence[LineRow] = ()
        if outcome is not None and camera is not None:
            caught = [(one.begins_s, one.ends_s) for one in outcome.visits if one in outcome.caught]
            rows = (
                LineRow("Really there", "ink", tuple((one.begins_s, one.ends_s) for one in outcome.visits)),
                LineRow("Caught", "chosen", tuple(caught)),
                LineRow("False", "need", tuple((one.begins_s, one.ends_s + 1) for one in outcome.alarms)),
            )
            if len(outcome.stretches) == 1:
                clips = tuple(outcome.clips(camera.pre_s, camera.post_s))
                rows = (*rows, LineRow("Recorded", "muted", clips))
        self.day.show_rows(rows, outcome.stretches if outcome is not None else ())

    def _show_zones(self) -> None:
        zones = [ZoneShown(zone.corners, zone.leave_out) for zone in self.rule().zones]
        if self.proposal is not None:
            zones += [ZoneShown(zone.corners, True, True) for zone in self.proposal.zones]
        self.scene.show_zones(zones)

    def _show_proposal(self) -> None:
        proposal = self.proposal
        self._take.setVisible(proposal is not None and proposal.is_better)
        if proposal is None:
            self._proposed.setText("")
            return
        before, after = proposal.before, proposal.after
        false = f"{figure(before.false_per_h)} → {figure(after.false_per_h)} false alarms an hour"
        missed = f"missed {figure(100 * before.missed_share, 2)} → {figure(100 * after.missed_share, 2)} %"
        if proposal.is_better:
            parts = [
                f"sensitivity {figure(proposal.rule.sensitivity)}",
                f"smallest {figure(proposal.rule.smallest_m)} m",
            ]
            if proposal.zones:
                parts.append(f"{count(len(proposal.zones), 'part')} left out")
            self._proposed.setText(f"Proposed: {', '.join(parts)}. On days that it has not seen: {false}, {missed}.")
        else:
            self._proposed.setText(
                f"Nothing better was found; on days not seen yet the best tried gave {false}, {missed}."
            )

    def show_moment(self, at_s: float) -> None:
        """Show the picture of a moment, with who is there and what counted."""
        if self.looked is None:
            return
        from eager_lens.core.motion.scene import HIGH, WIDE

        scene, outcome = self.looked.scene, self._outcome()
        picture = scene.picture(at_s)
        # By night the picture is lifted for the eye; the detector sees it as it is.
        lifted = (picture * min(2.6, 105 / max(1.0, float(picture.mean())))).clip(0, 255)
        self.scene.show_picture(lifted.astype("uint8").tobytes(), WIDE, HIGH)
        marks = [Marked(_shares(box), visit.kind, False) for visit, box in scene.active(at_s)]
        for one in outcome.triggers if outcome is not None else ():
            if abs(one.at_s - at_s) <= SHOWN_NEAR_S and one.cause is not None:
                marks.append(Marked(_shares(one.area.box), one.cause, True))
        self.scene.show_marks(marks)
        self.day.show_moment(at_s)

    # ---- edits -----------------------------------------------------------------------------------------------------

    def _ids(self) -> list[str]:
        known = {one.id for one in self.session.job.cameras}
        camera = self.camera()
        return [one for one in self.session.chosen if one in known] or ([camera.id] if camera is not None else [])

    def _change(self, label_words: str, make: Callable[[], MovementRule]) -> None:
        """Change the rule of the chosen cameras, as one step."""

        def edit() -> Edit:
            rule = make()
            words = f"{label_words} on {count(len(self._ids()), 'camera')}"
            return set_fields(self._ids(), words, rule=rule, tried_in=str(self.view.currentData()))

        if self._ids():
            self.session.attempt(edit)
        self._show()

    def _typed(self, name: str) -> None:
        rule, text = self.rule(), self.fields[name].text()
        try:
            value = number_from(text)
        except (EagerLensError, ValueError) as error:
            self.session.notice(f"{name}: {error}", needs=True)
            self.fields[name].setText(figure(getattr(rule, name), 4))
            return
        if value != getattr(rule, name):
            self.proposal = None
            self._change(f"Set {name.partition('_')[0]} {text.strip()}", lambda: changed(rule, **{name: value}))
            self.fields[name].setText(figure(getattr(self.rule(), name), 4))

    def _view_chosen(self) -> None:
        self.proposal = None
        name = str(self.view.currentData())
        if self._ids():
            self.session.apply(set_fields(self._ids(), f"Try in “{self._view().words}”", tried_in=name))
        self._show()
        if self.looked is None or self.looked.scene.view.name != name:
            self._draw_scene()

    def _zone_drawn(self, corners: Any) -> None:
        rule, leave_out = self.rule(), not self._only_here.isChecked()
        self._change(
            "Leave a part out" if leave_out else "Look only here",
            lambda: changed(rule, zones=(*rule.zones, Zone(corners=corners, leave_out=leave_out))),
        )

    def _zone_moved(self, at: int, corners: Any) -> None:
        rule = self.rule()
        zones = [changed(zone, corners=corners) if number == at else zone for number, zone in enumerate(rule.zones)]
        self._change("Move a zone", lambda: changed(rule, zones=tuple(zones)))

    def _zone_removed(self, at: int) -> None:
        rule = self.rule()
        zones = tuple(zone for number, zone in enumerate(rule.zones) if number != at)
        self._change("Take a zone away", lambda: changed(rule, zones=zones))

    def _take_over(self) -> None:
        if self.proposal is not None:
            proposed, self.proposal = self.proposal.rule, None
            self._change("Take the tuned rule over", lambda: proposed)

    def _take_events(self) -> None:
        """What triggered in the sample, as events an hour: people and false alarms, each as one."""
        outcome = self._outcome()
        camera = self.camera()
        if outcome is not None and camera is not None and self.looked is not None:
            visits = [one for one in self.looked.scene.visits if one.counts]
            per_h = len(visits) / 24 * (1 - outcome.missed_share) + outcome.false_per_h
            ids = self._ids()
            words = f"{figure(per_h)} events an hour on {count(len(ids), 'camera')}, as tried"
            self.session.apply(set_fields(ids, words, events_per_h=round(per_h, 1)))


def _told(outcome: Outcome) -> str:
    """The outcome as a sentence, with its sampling error."""
    causes = outcome.by_cause()
    first = next(iter(causes), None)
    false = f"{figure(outcome.false_per_h)} ± {figure(outcome.false_error, 2)} false alarms an hour"
    missed = f"{len(outcome.missed)} of {count(len(outcome.visits), 'visit')} missed (± {figure(100 * outcome.missed_error, 2)} %)"
    why = f"{first}, not people, fills it: " if first and outcome.false_per_h > 5 else ""
    return f"{why}{false}, {missed}"


def _recorded_words(outcome: Outcome, camera: Camera) -> str:
    """Clips and the recorded share of a whole day, beside what the closed formula makes of as many events at random."""
    clips = outcome.clips(camera.pre_s, camera.post_s)
    recorded_s = sum(ends - begins for begins, ends in clips)
    share = recorded_s / outcome.watched_s
    events = outcome.clips(0.0, 2.0)
    mean_s = sum(ends - begins for begins, ends in events) / max(1, len(events))
    formula = recorded_share(len(events) * 3600 / outcome.watched_s, mean_s, camera.pre_s, camera.post_s)
    return (
        f"{count(len(clips), 'clip')}, {figure(100 * share)} % of the day; the closed formula gives {figure(100 * formula)} % for "
        f"{count(len(events), 'event')} of {figure(mean_s, 2)} s at random."
    )


def _causes_words(outcome: Outcome) -> str:
    causes = outcome.by_cause()
    if not causes:
        return "No false alarm in the sample."
    parts = ", ".join(f"{many} by {cause}" for cause, many in causes.items())
    return f"False alarms in {figure(outcome.watched_s / 60)} min looked at: {parts}."


def _shares(box: Any) -> tuple[float, float, float, float]:
    from eager_lens.core.motion.scene import HIGH, WIDE

    return box.left / WIDE, box.top / HIGH, box.right / WIDE, box.bottom / HIGH
