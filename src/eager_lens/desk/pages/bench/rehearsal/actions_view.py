"""The hand at the rehearsal: what can be done to the selected device, with the values that the plan would type."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QCompleter, QGridLayout, QLabel, QLineEdit, QSizePolicy, QWidget

from eager_lens.core.addressing.ipv4 import address_number, address_text, subnet_of
from eager_lens.core.clock.zones import zone_names
from eager_lens.core.job.model import Camera, Recorder
from eager_lens.core.simulation.actions import SITE_ACTIONS
from eager_lens.core.simulation.actions.base import PASSWORD_WORDS, ActionField, ActionKind
from eager_lens.core.simulation.actions.servicing import FINDER_TEST
from eager_lens.core.simulation.channels import free_channel, same_maker
from eager_lens.core.simulation.lights import link_words
from eager_lens.core.simulation.parts import Unit
from eager_lens.core.simulation.site import Site
from eager_lens.desk.theme import SPACE
from eager_lens.desk.widgets.basics import Choice, button, column, emptied, label, repolished, row
from eager_lens.desk.widgets.reading_order import keys_in_order

MOST_FIELDS_ACROSS = 3


def likely_actions(site: Site, unit: Unit) -> list[ActionKind]:
    """The actions for a device, the likeliest first: what its state asks for."""
    kinds = [kind for kind in SITE_ACTIONS.values() if unit.role in kind.roles]
    first = _first(site, unit)
    order = {name: at for at, name in enumerate(first)}
    return sorted(
        (kind for kind in kinds if _makes_sense(unit, kind)), key=lambda kind: order.get(kind.name, len(order))
    )


def _makes_sense(unit: Unit, kind: ActionKind) -> bool:
    """Whether an action fits how a device is powered and what it has; wrong orders stay possible."""
    if kind.name in ("power on", "power off"):
        return unit.feeding.lead != "cable"
    if kind.name in ("radio", "align"):
        return unit.antenna is not None
    return kind.name != FINDER_TEST


def _first(site: Site, unit: Unit) -> list[str]:
    if unit.role == "laptop":
        return ["search", "laptop address", "ping", "page", "stream", "laptop lease", "forget", "laptop bare"]
    if not unit.is_lit:
        return ["plug", "power on"] if unit.feeding.lead == "cable" else ["power on", "plug"]
    if unit.role == "recorder" and unit.access.is_set_up:
        return ["add", "refresh", "own make", "find", "rename"]
    if not unit.access.is_set_up:
        return ["set up", "address"]
    planned = unit.device.address if unit.device is not None else ""
    has = any(side.address and planned and side.address == address_number(planned) for side in unit.sides)
    return ["time", "open protocol", "update", "walk"] if has else ["address", "time", "open protocol"]


def proposed(site: Site, unit: Unit, kind: ActionKind, field: ActionField) -> str:
    """The value that the plan would type; empty where there is none."""
    device, job = unit.device, site.job
    plan = next((one for one in job.subnets if device is not None and one.id == device.subnet), None)
    if field.kind == "zone":
        return job.time_zone
    if field.kind in ("password", "yes"):
        return {"password": "own", "yes": "yes"}[field.kind]
    if kind.name == "laptop address":
        return _laptop_address(site)
    if kind.name == "address" and device is not None and plan is not None:
        size = subnet_of(plan.cidr).prefix
        return {"address": f"{device.address}/{size}" if device.address else "", "gateway": plan.gateway}.get(
            field.name, ""
        )
    if kind.name in ("time", "target") and field.name in ("server", "address"):
        return _recorder_address(site, unit)
    if kind.name == "add" and isinstance(device, Recorder):
        return _next_camera(site, unit).get(field.name, "")
    if kind.name == "find" and field.name == "time":
        return f"{site.local():%H:%M}"
    if field.name == "channel":
        return str(min(unit.entries, default=1))
    return ""


def _laptop_address(site: Site) -> str:
    """An address in the first subnet of the job that the laptop has none in."""
    has = {side.subnet.network for side in site.laptop.sides if side.address}
    held = {device.address for device in site.job.devices()}
    for plan in site.job.subnets:
        net = subnet_of(plan.cidr)
        if net.network not in has:
            number = next(n for n in range(net.last_host, net.network, -1) if address_text(n) not in held)
            return f"{address_text(number)}/{net.prefix}"
    return ""


def _recorder_address(site: Site, unit: Unit) -> str:
    for place in getattr(unit.device, "registered", ()):
        recorder = site.units.get(place.recorder)
        if recorder is not None and recorder.device is not None:
            return recorder.device.address
    return ""


def _next_camera(site: Site, recorder: Unit) -> dict[str, str]:
    """The values for the next camera that the plan gives this recorder and that is not on a channel yet."""
    held = set(recorder.entries)
    for camera in site.job.cameras:
        for place in camera.registered:
            if place.recorder == recorder.id and place.channel not in held and site.units[camera.id].access.is_set_up:
                return _values_for(site, recorder, camera, place.channel)
    return {"channel": str(free_channel(recorder) or ""), "protocol": "open", "password": "own"}


def _values_for(site: Site, recorder: Unit, camera: Camera, channel: int) -> dict[str, str]:
    protocol = "own" if same_maker(recorder, site.units[camera.id]) else "open"
    return {
        "address": camera.address,
        "channel": str(channel),
        "protocol": protocol,
        "name": camera.name,
        "camera": camera.id,
    }


class ActionsView(QWidget):
    """One line of what can be done, one of its values, one button."""

    def __init__(self, act: Callable[[str, str, dict[str, str]], None]) -> None:
        super().__init__()
        self._act = act
        self._site: Site | None = None
        self._unit: Unit | None = None
        self._hidden: dict[str, str] = {}
        self.who = label("", "heading")
        self.act_menu = Choice()
        self.act_menu.setAccessibleName("What to do")
        self.act_menu.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.act_menu.currentIndexChanged.connect(lambda _: self._show_fields())
        self.go = button("Do action", self.do, "main")
        self.tip = label("", "small", wrap=True)
        self.outcome = label("", "", wrap=True)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(SPACE.HALF)
        self._grid.setVerticalSpacing(SPACE.TIGHT)
        self.fields: dict[str, QLineEdit | QComboBox] = {}
        self.label = label("", "small")
        self.label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        head = row(self.who, self.act_menu, self.go, self.label)
        head.setStretch(3, 1)
        self.setLayout(column(head, self._grid, self.tip, self.outcome, spacing=SPACE.TIGHT))
        self.outcome.hide()

    def show_unit(self, site: Site | None, unit: Unit | None) -> None:
        """Offer what can be done to a device; what was begun to be typed stays while nothing of it changed."""
        if site is None or unit is None:
            self._site, self._unit = None, None
            self.setVisible(False)
            return
        self.setVisible(True)
        kinds = likely_actions(site, unit)
        names = [kind.name for kind in kinds]
        same = self._unit is unit and self._site is site and names == self._names()
        self._site, self._unit = site, unit
        self.who.setText(unit.name)
        labels = (unit.mac_address, unit.serial, link_words(site, unit))
        self.label.setText(" · ".join(part for part in labels if part))
        if same:
            return
        self.outcome.hide()
        self.act_menu.blockSignals(True)
        self.act_menu.clear()
        for kind in kinds:
            self.act_menu.addItem(kind.label, kind.name)
        self.act_menu.blockSignals(False)
        self._show_fields()

    def _names(self) -> list[str]:
        return [str(self.act_menu.itemData(at)) for at in range(self.act_menu.count())]

    @property
    def kind(self) -> ActionKind | None:
        """The action selected."""
        return SITE_ACTIONS.get(str(self.act_menu.currentData()))

    def select(self, name: str) -> None:
        """Select an action by its name."""
        at = self.act_menu.findData(name)
        if at >= 0:
            self.act_menu.setCurrentIndex(at)

    def _show_fields(self) -> None:
        emptied(self._grid)
        self.fields = {}
        self._hidden = {}
        kind, site, unit = self.kind, self._site, self._unit
        if kind is None or site is None or unit is None:
            return
        self.tip.setText(kind.tip)
        self.tip.setVisible(bool(kind.tip))
        for at, field in enumerate(kind.fields):
            if field.name == "side" and len(unit.sides) < 2:
                continue
            editor = self._editor(field, proposed(site, unit, kind, field))
            line, place = divmod(at, MOST_FIELDS_ACROSS)
            self._grid.addWidget(_named(field.label, editor), line, 2 * place)
            self._grid.addWidget(editor, line, 2 * place + 1)
            self.fields[field.name] = editor
        if kind.name == "add":
            self._hidden = {"camera": _next_camera(site, unit).get("camera", "")}
        for place in range(2 * MOST_FIELDS_ACROSS):
            self._grid.setColumnStretch(place, place % 2)
        keys_in_order(self)

    def _editor(self, field: ActionField, value: str) -> QLineEdit | QComboBox:
        if field.kind == "password":
            return _choice(PASSWORD_WORDS.items(), value)
        if field.kind == "yes":
            return _choice((("yes", "noted"), ("no", "skipped")), value)
        if field.kind == "choice":
            return _choice(((one, one or "main") for one in field.choices), value)
        line = QLineEdit(value)
        line.setPlaceholderText(field.hint)
        line.returnPressed.connect(self.do)
        if field.kind == "zone":
            completer = QCompleter(list(zone_names()), line)
            completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
            completer.setFilterMode(Qt.MatchFlag.MatchContains)
            line.setCompleter(completer)
        return line

    def values(self) -> dict[str, str]:
        """The values as they stand in the fields."""
        found = {
            name: str(one.currentData()) if isinstance(one, QComboBox) else one.text().strip()
            for name, one in self.fields.items()
        }
        meant = self._hidden.get("camera", "")
        if meant and self._site is not None:
            camera = next((one for one in self._site.job.cameras if one.id == meant), None)
            if camera is not None and camera.address != found.get("address"):
                meant = next((c.id for c in self._site.job.cameras if c.address == found.get("address")), "")
        return {**found, **({"camera": meant} if meant else {})}

    def do(self) -> None:
        """Do what is selected."""
        if self.kind is not None and self._unit is not None:
            self._act(self.kind.name, self._unit.id, self.values())

    def tell(self, words: str, needs: bool) -> None:
        """Say what came of the last action."""
        self.outcome.setText(words)
        self.outcome.setVisible(True)
        repolished(self.outcome, "role", "need" if needs else "")

    def refresh(self) -> None:
        """Propose values again after an action."""
        unit, self._unit = self._unit, None
        self.show_unit(self._site, unit)


def _named(words: str, editor: QWidget) -> QLabel:
    made = label(words, "small")
    made.setBuddy(editor)
    editor.setAccessibleName(words)
    return made


def _choice(choices: Iterable[tuple[str, str]], value: str) -> QComboBox:
    box = Choice()
    for data, words in choices:
        box.addItem(words, data)
    box.setCurrentIndex(max(0, box.findData(value)))
    return box
