"""A radio link: its path drawn from the side, its budget, and the fields of its plan."""

from __future__ import annotations

from typing import Any

from PySide6.QtWidgets import QComboBox, QGridLayout, QWidget

from eager_lens.core.assess.assessment import Assessment
from eager_lens.core.assess.figures.radio import radio_figures
from eager_lens.core.job.model import Link, Obstacle, RadioPlan, changed
from eager_lens.core.job.wiring import set_link
from eager_lens.core.units import figure
from eager_lens.desk.pages.wiring.elevation import Elevation, Path
from eager_lens.desk.session import Session
from eager_lens.desk.theme import SPACE, look
from eager_lens.desk.widgets.basics import Choice, column, held, label, row
from eager_lens.desk.widgets.number_field import NumberField

NUMBERS = (
    ("a_height_m", "Height, end A", "m"),
    ("b_height_m", "Height, end B", "m"),
    ("frequency_ghz", "Frequency", "GHz"),
    ("tx_dbm", "EIRP", "dBm"),
    ("tx_gain_dbi", "Antenna A", "dBi"),
    ("rx_gain_dbi", "Antenna B", "dBi"),
    ("other_loss_db", "Losses", "dB"),
)
CHOICES: tuple[tuple[str, str, dict[str, Any]], ...] = (
    ("width_mhz", "Channel, MHz", {"20": 20, "40": 40, "80": 80}),
    ("streams", "Streams", {"1": 1, "2": 2, "3": 3, "4": 4}),
    ("security", "Encryption", {"WPA3": "wpa3", "WPA2": "wpa2", "WEP": "wep", "none": "open"}),
)
MOST_OBSTACLES = 2


class RadioPanel(QWidget):
    """Path at the left, fields at the right."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._link: Link | None = None
        self.elevation = Elevation()
        self._budget = label("", "small", wrap=True)
        self.fields: dict[str, NumberField] = {}
        self._choices: dict[str, QComboBox] = {}
        grid = QGridLayout()
        grid.setHorizontalSpacing(SPACE.HALF)
        grid.setVerticalSpacing(2)
        places = iter((at % 5, 2 * (at // 5)) for at in range(30))

        def add(words: str, widget: QWidget) -> None:
            at_row, at_column = next(places)
            grid.addWidget(label(words, "small"), at_row, at_column)
            grid.addWidget(widget, at_row, at_column + 1)

        add("Length", self._number("length_m", "Length", "m", self._set_length))
        for name, words, unit in NUMBERS:
            add(words, self._number(name, words, unit, lambda value, name=name: self._set(name, value)))
        for name, words, values in CHOICES:
            box = Choice()
            box.addItems(list(values))
            box.setAccessibleName(words)
            look.fix_width(box, 70)
            box.activated.connect(lambda at, name=name, values=values: self._set(name, list(values.values())[at]))
            self._choices[name] = box
            add(words, box)
        for at in range(MOST_OBSTACLES):
            for name, words in (("at_m", f"Obstacle {at + 1} at"), ("height_m", "its height")):
                key = f"{name} {at}"
                add(
                    words,
                    self._number(key, words, "m", lambda value, at=at, name=name: self._obstacle(at, name, value)),
                )
        fields = held(grid)
        upper = row(self.elevation, fields)
        upper.setStretch(0, 1)
        self.setLayout(column(upper, self._budget, spacing=4))

    def _number(self, key: str, words: str, unit: str, typed: Any) -> NumberField:
        field = NumberField(words, unit, "–", width=70)
        field.typed.connect(typed)
        field.refused.connect(lambda text: self.session.notice(text, needs=True))
        self.fields[key] = field
        return field

    # ---- what is shown -------------------------------------------------------------------------------------------

    def show_link(self, link: Link, assessment: Assessment) -> None:
        """Show a link's plan; one without a plan shows what it would begin with."""
        self._link = link
        plan = link.radio or RadioPlan()
        self.fields["length_m"].show_value(link.length_m)
        for name, _, _ in NUMBERS:
            self.fields[name].show_value(getattr(plan, name))
        for name, _, values in CHOICES:
            self._choices[name].setCurrentIndex(list(values.values()).index(getattr(plan, name)))
        for at in range(MOST_OBSTACLES):
            there = plan.obstacles[at] if at < len(plan.obstacles) else None
            self.fields[f"at_m {at}"].show_value(there.at_m if there else None)
            self.fields[f"height_m {at}"].show_value(there.height_m if there else None)
        self._show_path(link, plan, assessment)

    def _show_path(self, link: Link, plan: RadioPlan, assessment: Assessment) -> None:
        names = assessment.facts.name(link.a), assessment.facts.name(link.b)
        got = radio_figures(link)
        if not link.length_m:
            self.elevation.show_path(None)
            self._budget.setText("Enter the length of the path; channel and antennas then give its throughput.")
            return
        obstacles = tuple((one.at_m, one.height_m) for one in plan.obstacles)
        self.elevation.show_path(
            Path(link.length_m, plan.frequency_ghz, plan.a_height_m, plan.b_height_m, obstacles, names)
        )
        if got is None:
            self._budget.setText("Fill in any field to plan this link; until then 100 Mb/s are assumed.")
            return
        budget, load = got.budget, assessment.facts.topology.loads.get(link.id)
        carried = "" if load is None else f"; load {figure(load.forth_mbps + load.back_mbps)} Mb/s"
        step = (
            "no MCS index is usable"
            if budget.step is None
            else f"MCS {budget.step}, {figure(budget.phy_mbps)} Mb/s PHY rate"
        )
        spare = "" if got.spare_db is None else f", {figure(got.spare_db)} dB above the need of that MCS index"
        self._budget.setText(
            f"{figure(budget.rx_dbm)} dBm RSSI{spare}; {step}, {figure(budget.usable_mbps)} Mb/s throughput{carried}. The "
            f"radius of the first Fresnel zone half-way is {figure(budget.fresnel_m)} m. Local rules for power and channel "
            "come first."
        )

    # ---- edits ---------------------------------------------------------------------------------------------------

    def _edit(self, words: str, **fields: Any) -> None:
        link = self._link
        if link is not None:
            self.session.attempt(lambda: set_link([link.id], f"Set {words} of a radio link", **fields))

    def _set_length(self, value: float | None) -> None:
        self._edit("length", length_m=value)

    def _set(self, name: str, value: Any) -> None:
        link = self._link
        if link is None:
            return
        plan = link.radio or RadioPlan()
        if value is None:
            value = getattr(RadioPlan(), name)

        words = f"Set {name.rpartition('_')[0] or name} of a radio link"
        self.session.attempt(lambda: set_link([link.id], words, radio=changed(plan, **{name: value})))

    def _obstacle(self, at: int, name: str, value: float | None) -> None:
        link = self._link
        if link is None:
            return
        plan = link.radio or RadioPlan()
        obstacles = list(plan.obstacles)
        if value is None:
            del obstacles[at : at + 1]
        else:
            while len(obstacles) <= at:
                obstacles.append(Obstacle(at_m=(link.length_m or 0.0) / 2, height_m=0))
            obstacles[at] = changed(obstacles[at], **{name: value})
        self._set("obstacles", tuple(obstacles))
