"""A rule tried before the wind does: in a drawn scene or on a clip, what it caught and told falsely, and a better one."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.job.model import Camera
from eager_lens.core.motion.places import presets
from eager_lens.core.plain_text import sentence_case
from eager_lens.core.tried_rule.tried import CLIP, Extent, Looked
from eager_lens.core.units import figure
from eager_lens.core.values.motion_rule import MotionRule
from eager_lens.desk.asking import Asker, FileKind
from eager_lens.desk.pages.motion.after_panel import AfterPanel
from eager_lens.desk.pages.motion.card import save_card
from eager_lens.desk.pages.motion.day_line import DAY_S, DayLine, LineRow
from eager_lens.desk.pages.motion.marks_panel import MarksPanel
from eager_lens.desk.pages.motion.player import Player
from eager_lens.desk.pages.motion.result_panel import ResultPanel
from eager_lens.desk.pages.motion.rule_bar import RuleBar
from eager_lens.desk.pages.motion.rule_editor import RuleEditor
from eager_lens.desk.pages.motion.scene_view import SceneView, Tool
from eager_lens.desk.pages.motion.try_drawing import moment, outcome_rows, shapes, sticks, week_rows
from eager_lens.desk.pages.motion.try_work import TryWork
from eager_lens.desk.pages.motion.weather_panel import WeatherPanel
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, button, column, label, row, scrolled
from eager_lens.desk.widgets.current_stack import CurrentStack
from eager_lens.desk.widgets.flow import flow

if TYPE_CHECKING:
    from eager_lens.core.motion.outcome import Outcome

CLIP_FILE = FileKind("Clips", (".mp4", ".mkv", ".mov", ".avi", ".ts", ".m4v", ".mpg", ".wmv", ".webm", ".asf"))

NOON_S = 12.5 * 3600

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

SUGGESTS = "Tried in several weathers and checked on other days; persons of 0.9 to 1.9 m"

PANELS = ("Result", "Weather", "Post-recording", "Marks")
RESULT, WEATHER, AFTER, MARKS = range(4)


class TryView(QWidget):
    """The scene with zones, the rule, the time line, and beside them what came of it."""

    def __init__(self, session: Session, asker: Asker) -> None:
        super().__init__()
        self.session = session
        self.editor = RuleEditor(session)
        self.work = TryWork(session, self.editor, self)
        self.work.looked_at.connect(self._looked_at)
        self.work.proposed.connect(self._proposed)
        self.asker = asker
        self._words = label("", "heading", wrap=True)
        self._words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        self._make_choices()
        self.look_button = button("Try it", self.look, "main", "True detections, misses and false alarms of the rule")
        self.suggest = button(
            "Suggest a better rule",
            self.tune,
            tip=SUGGESTS,
        )
        self._card = button(
            "Rule card…", self._export_card, "quiet", "PDF with settings and walk test, to take up the ladder"
        )
        self._make_scene()
        self._make_panels()
        self._lay_out()
        self.show_panel(RESULT)

    def _make_choices(self) -> None:
        """Where it is tried, and in how much of it."""
        self.camera = Choice()
        self.camera.setAccessibleName("Camera")
        look.limit_width(self.camera, 230)
        self.camera.activated.connect(lambda _: self.session.select((str(self.camera.currentData()),)))
        self.view = Choice()
        self.view.setAccessibleName("Tried in")
        for one in presets().values():
            self.view.addItem(one.words, one.name)
        self.view.addItem("A clip of this camera…", CLIP)
        self.view.activated.connect(lambda _: self._view_selected())
        self.extent = Choice()
        self.extent.setAccessibleName("Length")
        for name, words in EXTENTS:
            self.extent.addItem(words, name)

    def _make_scene(self) -> None:
        """The picture, what a drag in it does, and the two time lines."""
        self.scene = SceneView()
        self.scene.drawn.connect(
            self._reshaped(lambda corners: self.editor.add_zone(corners, self.scene.tool != "zone"))
        )
        self.scene.moved.connect(self._reshaped(self.editor.move_zone))
        self.scene.removed.connect(self._reshaped(self.editor.remove_zone))
        self.scene.line_drawn.connect(self._reshaped(self.editor.draw_line))
        self.scene.line_removed.connect(self.editor.remove_line)
        self.tool = Choice()
        self.tool.setAccessibleName("Action of a drag")
        for tool, words in TOOLS:
            self.tool.addItem(words, tool)
        self.tool.currentIndexChanged.connect(lambda _: self._tool_selected())
        self.player = Player()
        self.player.moment.connect(self.show_moment)
        self.player.step_selected.connect(lambda: self.show_moment(self.player.at_s))
        self.day = DayLine()
        self.day.picked.connect(self._picked)

    def _make_panels(self) -> None:
        """The rule's bar, and what stands beside the picture."""
        self.bar = RuleBar()
        self.bar.edited.connect(self.editor.take)
        self.bar.given.connect(self.editor.give)
        self.bar.saved.connect(self.editor.save)
        self.bar.removed.connect(self.editor.forget)
        self.bar.sizes_focused.connect(self._show_sticks)
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
        self._panels = CurrentStack()
        self._tabs = [button(words, partial(self.show_panel, at), "tab") for at, words in enumerate(PANELS)]

    def _lay_out(self) -> None:
        top = row(
            self.view,
            self.extent,
            None,
            self.work.busy.left,
            self.work.busy.bar,
            self.work.busy.stop_button,
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
            "A generic detector: it shows the effect of settings, not your camera's own detector. Confirm the rule by a walk "
            "test on site.",
            "caution",
            wrap=True,
        )
        found = row(self.camera, bar.names, self._words)
        found.setStretch(2, 1)
        layout = column(top, self.bar, found, middle, self.day, honest, spacing=SPACE.HALF)
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
        cameras = [(one.id, one.name) for one in assessment.job.cameras]
        self.camera.offer(cameras, camera.id if camera is not None else None)
        self.camera.setVisible(bool(cameras))
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
        if self.work.asked_for != trial:
            self.player.stop()
            self.work.draw(trial)

    # ---- work ------------------------------------------------------------------------------------------------------

    def look(self) -> None:
        """Try the rule as it is, in as much of the trial as was asked for."""
        self.player.stop()
        self.work.look(self.extent.currentData())

    def tune(self) -> None:
        """Look for a better rule, and prove it on pictures that it has not seen."""
        self.work.tune()

    def _looked_at(self) -> None:
        self._show()
        outcome, looked = self.work.outcome(), self.work.looked
        alarms = outcome.alarms if outcome is not None else ()
        begins = alarms[0].begins_s if alarms else NOON_S if looked is None or looked.trial.clip is None else 0.0
        self.show_moment(begins)

    def _proposed(self) -> None:
        self.show_panel(RESULT)
        self._show()
        if self.suggest.hasFocus() and self.result.take.isVisible():
            self.result.take.setFocus()  # the next thing to press

    # ---- drawing ---------------------------------------------------------------------------------------------------

    def _show(self) -> None:
        camera, looked, outcome = self.editor.camera(), self.work.fitting(), self.work.outcome()
        if camera is None:
            self._words.setText("Add a camera first to try its rule here.")
        elif looked is None or not looked.outcomes:
            self._words.setText("Not tried with these settings yet.")
        else:
            from eager_lens.core.tried_rule.in_words import headline

            words = headline(looked)
            self._words.setText(sentence_case(words))
        self.result.show_result(
            outcome, self._result_words(looked, camera), self.work.fitting_proposal(), self.editor.rule()
        )
        self._show_after()
        self._show_shapes()
        self._show_day(looked, outcome, camera)

    def _show_after(self) -> None:
        """Work the seconds after out when they are in sight: of a whole day that is no work for each edit."""
        if self._panels.currentIndex() == AFTER:
            self.after.show_outcome(self.work.outcome(), self.editor.camera())

    def _result_words(self, looked: Looked | None, camera: Camera | None) -> str:
        if looked is None or camera is None or not looked.outcomes:
            return ""
        from eager_lens.core.tried_rule.in_words import causes, recorded

        words, outcome = causes(looked.outcomes), looked.outcome
        if outcome is not None and outcome.is_whole:
            rate_mbps = self.session.assessment.camera(camera.id).rate_mbps
            words += " " + recorded(outcome, camera.pre_recording_s, camera.post_recording_s, rate_mbps)
        return words

    def _show_day(self, looked: Looked | None, outcome: Outcome | None, camera: Camera | None) -> None:
        rows: Sequence[LineRow] = ()
        end_s = self.work.looked.source.duration_s if self.work.looked is not None else 0.0
        if outcome is not None and camera is not None:
            rows = outcome_rows(outcome, camera)
        elif looked is not None and looked.days:
            rows = week_rows(looked)
        alarms = [one.begins_s for one in outcome.alarms] if outcome is not None else []
        missed = [one.begins_s for one in outcome.missed] if outcome is not None else []
        self.player.show_moments(alarms, missed, end_s)
        self.day.show_rows(rows, outcome.stretches if outcome is not None else (), end_s or DAY_S)

    def _show_shapes(self) -> None:
        self.scene.show_zones(*shapes(self.editor.rule(), self.work.fitting_proposal()))

    def _show_sticks(self, shown: bool) -> None:
        """While a size is typed, how high it stands on the ground near, farther and far off."""
        source = self.work.source
        self.scene.show_sticks(sticks(source, self.editor.rule()) if shown and source is not None else ())

    def _picked(self, at_s: float, at_row: int) -> None:
        """Go to a moment of the time line; in a windy week of the day whose row it is."""
        self.work.go_to_day(at_row)
        self.show_moment(at_s)

    def show_moment(self, at_s: float) -> None:
        """Show the picture of a moment, with who is there and what counted; or what the detector makes of it."""
        source = self.work.source
        if self.work.looked is None or source is None:
            return
        shown = moment(source, self.work.outcome(), self.editor.rule(), at_s, self.player.step.currentIndex())
        self.scene.show_caption(shown.caption)
        self.scene.show_picture(shown.grey, shown.wide, shown.high)
        self.scene.show_marks(shown.marks)
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
            path = self.asker.open_file("A clip of this camera", (CLIP_FILE,), self.session.path)
            if path is not None:
                self.editor.try_on(path)
                self.show_panel(MARKS)
        self.show_assessment(self.session.assessment)

    def _tool_selected(self) -> None:
        self.scene.tool = self.tool.currentData()

    def _export_card(self) -> None:
        camera = self.editor.camera()
        if camera is not None:
            save_card(self.session, self.asker, camera)
