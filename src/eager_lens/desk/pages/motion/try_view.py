"""A rule tried before the wind does: in a drawn scene or on a clip, what it caught and told falsely, and a better one."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.model import Camera
from eager_lens.core.motion.places import presets
from eager_lens.core.motion.rule import MotionRule
from eager_lens.core.trial.tried import CLIP, Extent, Looked, Trial
from eager_lens.core.units import figure
from eager_lens.desk.asking import Asker, FileKind
from eager_lens.desk.background import Task, Work
from eager_lens.desk.pages.motion.after_panel import AfterPanel
from eager_lens.desk.pages.motion.card import save_card
from eager_lens.desk.pages.motion.marks_panel import MarksPanel
from eager_lens.desk.pages.motion.player import Player
from eager_lens.desk.pages.motion.result_panel import ResultPanel
from eager_lens.desk.pages.motion.rule_bar import RuleBar
from eager_lens.desk.pages.motion.rule_editor import RuleEditor
from eager_lens.desk.pages.motion.weather_panel import WeatherPanel
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, button, column, label, row, scrolled
from eager_lens.desk.widgets.busy import Busy
from eager_lens.desk.widgets.current_stack import CurrentStack
from eager_lens.desk.widgets.day_line import DAY_S, DayLine, LineRow
from eager_lens.desk.widgets.flow import flow
from eager_lens.desk.widgets.scene_shapes import LineShown, Marked, Stick, ZoneShown
from eager_lens.desk.widgets.scene_view import SceneView, Tool

if TYPE_CHECKING:
    from eager_lens.core.motion.outcome import Outcome
    from eager_lens.core.motion.source import Source
    from eager_lens.core.motion.tune import Proposal

CLIP_FILE = FileKind("Clips", (".mp4", ".mkv", ".mov", ".avi", ".ts"))

NOON_S = 12.5 * 3600

SHOWN_NEAR_S = 0.15

EXTENTS: tuple[tuple[Extent, str], ...] = (
    ("sample", "a sample of a day, some seconds"),
    ("day", "the whole day, some minutes"),
    ("schedule", "a windy week, about a minute"),
)

TOOLS: tuple[tuple[Tool, str], ...] = (
    ("exclude", "adds an exclusion zone"),
    ("zone", "adds a zone"),
    ("line", "adds a line crossing"),
)

STICKS_TIMES = (1.0, 1.7, 3.2)
"""The sizes of a rule are shown so many times as far off as the ground is at the lower edge of the picture."""

TRUTH_LEGEND = "White: true detection. Orange: false alarm, with its cause."

PANELS = ("Result", "Weather", "Post-recording", "Marks")
RESULT, WEATHER, AFTER, MARKS = range(4)

DARK_LEVEL, BRIGHTEST = 105, 2.6
"""By night a picture is lifted for the eye up to such a mean; the detector sees it as it is."""


class TryView(QWidget):
    """The scene with zones, the rule, the time line, and beside them what came of it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.editor = RuleEditor(session)
        self.asker: Asker | None = None
        self.looked: Looked | None = None
        self.proposal: Proposal | None = None
        self._proposed_for: tuple[Trial, MotionRule] | None = None
        self._clip: tuple[str, Source] | None = None
        self._source: Source | None = None
        self._asked_for: Trial | None = None
        self.busy = Busy(session, self)
        self._words = label("", "heading", wrap=True)
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self.view = Choice()
        self.view.setAccessibleName("Tried in")
        for one in presets().values():
            self.view.addItem(one.words, one.name)
        self.view.addItem("A clip of this camera…", CLIP)
        self.view.activated.connect(lambda _: self._view_selected())
        self.extent = Choice()
        self.extent.setAccessibleName("How much of it")
        for name, words in EXTENTS:
            self.extent.addItem(words, name)
        self.look_button = button("Try it", self.look, "main", "True detections, misses and false alarms of the rule")
        self.suggest = button(
            "Suggest a better rule", self.tune, tip="Selected on this day, proved on pictures that it has not seen"
        )
        self.bar = RuleBar()
        self.bar.edited.connect(self.editor.take)
        self.bar.given.connect(self.editor.give)
        self.bar.saved.connect(self.editor.save)
        self.bar.removed.connect(self.editor.forget)
        self.bar.sizes_focused.connect(self._show_sticks)
        self.scene = SceneView()
        self.scene.drawn.connect(
            self._reshaped(lambda corners: self.editor.add_zone(corners, self.scene.tool != "zone"))
        )
        self.scene.moved.connect(self._reshaped(self.editor.move_zone))
        self.scene.removed.connect(self._reshaped(self.editor.remove_zone))
        self.scene.line_drawn.connect(self._reshaped(self.editor.draw_line))
        self.scene.line_removed.connect(self.editor.remove_line)
        self.tool = Choice()
        self.tool.setAccessibleName("What a drag does")
        for tool, words in TOOLS:
            self.tool.addItem(words, tool)
        self.tool.currentIndexChanged.connect(lambda _: self._tool_selected())
        self.player = Player()
        self.player.moment.connect(self.show_moment)
        self.player.step_selected.connect(lambda: self.show_moment(self.player.at_s))
        self.result, self.weather = ResultPanel(), WeatherPanel()
        self.after, self.marks = AfterPanel(), MarksPanel()
        self.result.taken.connect(self._take)
        self.weather.turned.connect(self.editor.turn_weather)
        self.after.after.connect(
            lambda post_s: self.editor.set(f"Post-recording {figure(post_s)} s", post_recording_s=post_s)
        )
        self.after.events.connect(self.editor.take_events)
        self.marks.clip_changed.connect(lambda clip, words: self.editor.set(words, tried_clip=clip))
        self.marks.picked.connect(self.show_moment)
        for part in (self.bar, self.weather, self.marks):
            part.refused.connect(lambda words: self.session.notice(words, needs=True))
        self._card = button(
            "Rule card…", self._export_card, "quiet", "For the ladder: settings, picture, walk test; a PDF"
        )
        self.day = DayLine()
        self.day.picked.connect(self._picked)
        self._panels = CurrentStack()
        self._tabs = [button(words, partial(self.show_panel, at), "tab") for at, words in enumerate(PANELS)]
        self._lay_out()
        self.show_panel(RESULT)

    def _lay_out(self) -> None:
        top = row(
            self.view,
            self.extent,
            None,
            self.busy.bar,
            self.busy.stop_button,
            self.look_button,
            self.suggest,
            spacing=SPACE.TIGHT,
        )
        bar = self.bar
        saving = (bar.remove, bar.save, bar.name, self._card)
        tools = flow(label("A drag", "small"), self.tool, bar.direction, None, *saving, spacing=SPACE.TIGHT)
        for panel in (self.result, self.weather, self.after, self.marks):
            panel.setMinimumWidth(look.px(200))
            self._panels.addWidget(scrolled(panel))
        left = column(self.scene, self.player, tools, spacing=SPACE.TIGHT)
        left.setStretch(0, 1)
        right = column(row(*self._tabs, None, spacing=SPACE.HALF), self._panels, spacing=SPACE.TIGHT)
        right.setStretch(1, 1)
        middle = row(left, right, spacing=SPACE.WIDE)
        middle.setStretch(0, 8)
        middle.setStretch(1, 5)
        honest = label(
            "A generic detector: it shows what settings do, not what your camera's own detector does. Prove the rule by a walk "
            "test on site.",
            "caution",
            wrap=True,
        )
        layout = column(top, self.bar, self._words, middle, self.day, honest, spacing=SPACE.HALF)
        layout.setStretch(3, 1)
        self.setLayout(layout)

    def show_panel(self, at: int) -> None:
        """Show what came of it, the weather's knobs, the seconds after, or the marks of a clip."""
        self._panels.setCurrentIndex(at)
        self._show_after()
        for number, tab in enumerate(self._tabs):
            tab.setChecked(number == at)

    # ---- what is in focus ------------------------------------------------------------------------------------------

    def show_assessment(self, assessment: Assessment) -> None:
        """Show the camera's rule; a picture is drawn when there is none of this trial yet."""
        camera, trial = self.editor.camera(), self.editor.trial()
        self.view.blockSignals(True)
        words = "A clip of this camera…" if trial.clip is None else f"Clip {trial.words}, or another…"
        self.view.setItemText(self.view.findData(CLIP), words)
        self.view.setCurrentIndex(self.view.findData(CLIP if trial.clip is not None else trial.view.name))
        self.view.blockSignals(False)
        self.bar.show_rule(self.editor.rule(), assessment.job.rules)
        self.weather.show_view(trial.view, camera is None or camera.tried_weather is None)
        self._tabs[WEATHER].setVisible(trial.clip is None)
        self._tabs[MARKS].setVisible(trial.clip is not None)
        self.extent.setVisible(trial.clip is None)
        if self._panels.currentIndex() == (MARKS if trial.clip is None else WEATHER):
            self.show_panel(RESULT)
        self.marks.show_clip(trial.clip)
        for part in (self.look_button, self.suggest, self._card, self.bar, self.view):
            part.setEnabled(camera is not None)
        self._show()
        if self._asked_for != trial:
            self._draw_source(trial)

    # ---- work ------------------------------------------------------------------------------------------------------

    def _known_clip(self, trial: Trial) -> Source | None:
        """The clip as it was read before."""
        known = self._clip
        return known[1] if known is not None and trial.clip is not None and known[0] == trial.clip.path else None

    def _draw_source(self, trial: Trial) -> None:
        rule, known = self.editor.rule(), self._known_clip(trial)

        def work(task: Task) -> Work[Looked]:
            source = yield from trial.source(known)
            return Looked(trial, source, rule)

        self.looked, self._asked_for = None, trial
        self.player.stop()
        self.busy.begin(work, self._take_looked)

    def look(self) -> None:
        """Try the rule as it is, in as much of the trial as was asked for."""
        trial, rule = self.editor.trial(), self.editor.rule()
        known, extent = self._known_clip(trial), self.extent.currentData()

        def work(task: Task) -> Work[Looked]:
            source = yield from trial.source(known)
            looked = yield from trial.look(source, rule, extent)
            return looked

        self.player.stop()
        self.busy.begin(work, self._take_looked)

    def tune(self) -> None:
        """Look for a better rule, and prove it on pictures that it has not seen."""
        trial, rule = self.editor.trial(), self.editor.rule()
        known = self._known_clip(trial)

        def work(task: Task) -> Work[Proposal]:
            source = yield from trial.source(known)
            proposal = yield from trial.suggest(source, rule)
            return proposal

        self.busy.begin(work, partial(self._take_proposal, (trial, rule)))

    def _take_looked(self, looked: Looked) -> None:
        self.looked = looked
        self._source = looked.source
        if looked.trial.clip is not None:
            self._clip = (looked.trial.clip.path, looked.source)
        self._show()
        outcome = self._outcome()
        alarms = outcome.alarms if outcome is not None else ()
        begins = alarms[0].begins_s if alarms else NOON_S if looked.trial.clip is None else 0.0
        self.show_moment(begins)

    def _take_proposal(self, proposed_for: tuple[Trial, MotionRule], proposal: Proposal) -> None:
        self.proposal, self._proposed_for = proposal, proposed_for
        self.show_panel(RESULT)
        self._show()

    # ---- drawing ---------------------------------------------------------------------------------------------------

    def _fitting(self) -> Looked | None:
        """What the rule as it is did in this trial; None when it was not tried so."""
        looked, now = self.looked, (self.editor.trial(), self.editor.rule())
        return looked if looked is not None and (looked.trial, looked.rule) == now else None

    def _outcome(self) -> Outcome | None:
        looked = self._fitting()
        return looked.outcome if looked is not None else None

    def _fitting_proposal(self) -> Proposal | None:
        return self.proposal if self._proposed_for == (self.editor.trial(), self.editor.rule()) else None

    def _show(self) -> None:
        camera, looked, outcome = self.editor.camera(), self._fitting(), self._outcome()
        if camera is None:
            self._words.setText("Add a camera first; its rule is tried here.")
        elif looked is None or not looked.outcomes:
            self._words.setText(f"{camera.name}: not tried with these settings yet.")
        else:
            from eager_lens.core.trial.told import headline

            self._words.setText(f"{camera.name}: {headline(looked)}")
        self.result.show_result(outcome, self._told(looked, camera), self._fitting_proposal(), self.editor.rule())
        self._show_after()
        self._show_shapes()
        self._show_day(looked, outcome, camera)

    def _show_after(self) -> None:
        """Work the seconds after out when they are in sight: of a whole day that is no work for each edit."""
        if self._panels.currentIndex() == AFTER:
            self.after.show_outcome(self._outcome(), self.editor.camera())

    def _told(self, looked: Looked | None, camera: Camera | None) -> str:
        if looked is None or camera is None or not looked.outcomes:
            return ""
        from eager_lens.core.trial.told import causes, recorded

        words, outcome = causes(looked.outcomes), looked.outcome
        if outcome is not None and outcome.is_whole:
            rate_mbps = self.session.assessment.camera(camera.id).rate_mbps
            words += " " + recorded(outcome, camera.pre_recording_s, camera.post_recording_s, rate_mbps)
        return words

    def _show_day(self, looked: Looked | None, outcome: Outcome | None, camera: Camera | None) -> None:
        rows: Sequence[LineRow] = ()
        watched: Sequence[tuple[float, float]] = ()
        alarms: list[float] = []
        missed: list[float] = []
        end_s = self.looked.source.duration_s if self.looked is not None else 0.0
        if outcome is not None and camera is not None:
            alarms, missed = [one.begins_s for one in outcome.alarms], [one.begins_s for one in outcome.missed]
            caught = tuple((one.begins_s, one.ends_s) for one in outcome.visits if one in outcome.caught)
            rows = (
                LineRow("Truth", "ink", tuple((one.begins_s, one.ends_s) for one in outcome.visits)),
                LineRow("Caught", "accent", caught),
                LineRow("False", "need", tuple((one.begins_s, one.ends_s + 1) for one in outcome.alarms)),
            )
            if outcome.is_whole:
                rows = (
                    *rows,
                    LineRow("Recorded", "muted", tuple(outcome.clips(camera.pre_recording_s, camera.post_recording_s))),
                )
            watched = outcome.stretches
        elif looked is not None and looked.days:
            from eager_lens.core.trial.told import day_name

            rows = tuple(
                LineRow(
                    f"{day_name(day.weekday)} {figure(day.wind_m_per_s, 2)} m/s",
                    "need",
                    tuple((one.begins_s, one.ends_s + 1) for one in day.outcome.alarms),
                )
                for day in looked.days
            )
        self.player.show_moments(alarms, missed, end_s)
        self.day.show_rows(rows, watched, end_s or DAY_S)

    def _show_shapes(self) -> None:
        rule, proposal = self.editor.rule(), self._fitting_proposal()
        zones = [ZoneShown(zone.corners, zone.leave_out) for zone in rule.zones]
        if proposal is not None and proposal.is_better:
            zones += [ZoneShown(zone.corners, True, True) for zone in proposal.zones]
        line = None
        if rule.line is not None:
            way = rule.line.direction
            line = LineShown(rule.line.begins, rule.line.ends, way != "to the left", way != "to the right")
        self.scene.show_zones(zones, line)

    def _show_sticks(self, shown: bool) -> None:
        """While a size is typed, how high it stands on the ground near, farther and far off."""
        if not shown or self._source is None:
            self.scene.show_sticks(())
            return
        from eager_lens.core.motion.lens import HIGH, WIDE

        lens, rule, sticks = self._source.lens, self.editor.rule(), []
        for number, times in enumerate(STICKS_TIMES):
            away_m = times * lens.away_m(HIGH * 0.95)
            far = f"{figure(away_m, 2)} m off"
            for across, tall_m in ((-0.1, rule.smallest_m), (0.02, rule.largest_m)):
                x, y = lens.foot(0.0, away_m)
                share = x / WIDE + (number - 1) * 0.28 + across
                words = f"{figure(tall_m)} m" + (f", {far}" if across > 0 else "")
                sticks.append(Stick((share, y / HIGH), lens.focal_px * tall_m / away_m / HIGH, words))
        self.scene.show_sticks(sticks)

    def _picked(self, at_s: float, at_row: int) -> None:
        """Go to a moment of the time line; in a windy week of the day whose row it is."""
        looked = self.looked
        if looked is not None and looked.days and 0 <= at_row < len(looked.days):
            self._source = looked.days[at_row].scene(looked.trial.view)
        self.show_moment(at_s)

    def show_moment(self, at_s: float) -> None:
        """Show the picture of a moment, with who is there and what counted; or what the detector makes of it."""
        source = self._source
        if self.looked is None or source is None:
            return
        from eager_lens.core.motion.lens import HIGH, WIDE

        step, outcome = self.player.step.currentIndex(), self._outcome()
        if step == 0:
            picture = source.picture(at_s)
            picture = picture * min(BRIGHTEST, DARK_LEVEL / max(1.0, float(picture.mean())))
            marks = [Marked(_shares(box), visit.kind, False) for visit, box in source.seen(at_s)]
            named: set[str] = set()
            for one in outcome.triggers if outcome is not None else ():
                if abs(one.at_s - at_s) <= SHOWN_NEAR_S and one.cause is not None:
                    marks.append(Marked(_shares(one.area.box), "" if one.cause in named else one.cause, True))
                    named.add(one.cause)
            self.scene.show_caption(TRUTH_LEGEND if outcome is not None else "")
        else:
            from eager_lens.core.motion.stages import begins_at, stages_at

            since_s = begins_at(outcome.stretches if outcome is not None else (), at_s)
            steps, reasons = stages_at(source, self.editor.rule(), at_s, since_s)
            picture = steps[step].picture
            marks = [Marked(_shares(one.box), one.words, not one.is_counted) for one in reasons]
            self.scene.show_caption(steps[step].words + ("" if reasons else " Nothing moves here."))
        self.scene.show_picture(picture.clip(0, 255).astype("uint8").tobytes(), WIDE, HIGH)
        self.scene.show_marks(marks)
        self.player.show_time(at_s)
        self.marks.at_s = at_s
        self.day.show_moment(at_s)

    # ---- edits -----------------------------------------------------------------------------------------------------

    def _take(self, rule: MotionRule, words: str) -> None:
        self.editor.take(rule, words)
        self.look()

    def _reshaped(self, edit: Callable[..., None]) -> Callable[..., None]:
        """An edit after which the shapes are those of the job again, also where it was refused."""

        def act(*values: Any) -> None:
            edit(*values)
            self._show_shapes()

        return act

    def _view_selected(self) -> None:
        name = str(self.view.currentData())
        if name != CLIP:
            self.editor.try_in(name)
        else:
            path = (
                self.asker.open_file("A clip of this camera", (CLIP_FILE,), self.session.path) if self.asker else None
            )
            if path is not None:
                self.editor.try_on(path)
                self.show_panel(MARKS)
        self.show_assessment(self.session.assessment)

    def _tool_selected(self) -> None:
        self.scene.tool = self.tool.currentData()

    def _export_card(self) -> None:
        camera = self.editor.camera()
        if camera is not None and self.asker is not None:
            save_card(self.session, self.asker, camera)


def _shares(box: Any) -> tuple[float, float, float, float]:
    from eager_lens.core.motion.lens import HIGH, WIDE

    return box.left / WIDE, box.top / HIGH, box.right / WIDE, box.bottom / HIGH
