"""The look as it is now: theme and type size, with everything that follows from them."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from string import Template

from PySide6.QtCore import QByteArray, QObject, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPalette, QPixmap
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QApplication, QScrollArea, QStackedWidget, QWidget

from eager_lens.assets import asset
from eager_lens.desk.theme.palette import DARK, LIGHT, Palette
from eager_lens.desk.widget_tree import widgets_below

LARGE_TYPE_FACTOR = 1.25

SMALL, NORMAL, HEADING, VERDICT = 12, 13, 14, 20
"""The four type sizes, in pixels at normal type."""


HEAT_FROM = 1 / 3
"""From this share on, what is filling up begins to warm."""


class _Space:
    """Distances, in pixels, on a grid of four."""

    TIGHT, HALF, FULL, WIDE = 4, 8, 16, 20


SPACE = _Space


WIDTH = "widthAtNormalType"
"""The property of a widget that holds how its width is kept, and the width."""


class Look(QObject):
    """Theme and type size. ``changed`` tells widgets that paint themselves to do it again."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.dark = False
        self.large = False
        self._families: tuple[str, str] = ("", "")
        self._sheet = ""
        self._widths_in: set[bool] = set()

    def on_paper(self) -> Look:
        """What paper looks like, whatever the window does: light, in normal type."""
        paper = Look()
        paper._families = self._families
        return paper

    @property
    def palette(self) -> Palette:
        """The colours now."""
        return DARK if self.dark else LIGHT

    def color(self, role: str, alpha: float = 1.0) -> QColor:
        """A colour by its role in the palette, see-through by ``alpha``."""
        color = QColor(getattr(self.palette, role))
        color.setAlphaF(alpha)
        return color

    def on_picture(self, role: str, alpha: float = 1.0) -> QColor:
        """A colour for what is drawn on a camera's picture: that of the dark palette, whatever the theme."""
        color = QColor(getattr(DARK, role))
        color.setAlphaF(alpha)
        return color

    def heat(self, share: float, alpha: float = 1.0) -> QColor:
        """How full something is: the calm colour up to a third, then toward the one that needs somebody."""
        calm, warm = QColor(self.palette.accent), QColor(self.palette.need)
        # Linear from HEAT_FROM on; below it every load looks calm, so that the eye goes to what is full.
        part = min(1.0, max(0.0, (share - HEAT_FROM) / (1 - HEAT_FROM)))
        red, green, blue = (
            round(one + (other - one) * part)
            for one, other in (
                (calm.red(), warm.red()),
                (calm.green(), warm.green()),
                (calm.blue(), warm.blue()),
            )
        )
        return QColor(red, green, blue, round(255 * alpha))

    def series(self, at: int) -> QColor:
        """The colour of a chart's series."""
        return QColor(self.palette.series[at % len(self.palette.series)])

    def px(self, size: float) -> int:
        """A size at normal type, in pixels at the type size now."""
        return round(size * (LARGE_TYPE_FACTOR if self.large else 1.0))

    def fix_width(self, part: QWidget, px: float) -> None:
        """Give a part a width at normal type, which follows the type size whenever the part is styled."""
        self._keep(part, "setFixedWidth", px)

    def limit_width(self, part: QWidget, px: float) -> None:
        """The same for the most that it may be wide."""
        self._keep(part, "setMaximumWidth", px)

    def _keep(self, part: QWidget, how: str, px: float) -> None:
        part.setProperty(WIDTH, (how, px))
        self._widths_in.add(self.large)
        getattr(part, how)(self.px(px))

    def font(self, size: int = NORMAL, strong: bool = False, figures: bool = False) -> QFont:
        """A font: text in Inter, figures in B612 (of one width, made to be read at a glance)."""
        font = QFont(self._families[1 if figures else 0])
        font.setPixelSize(self.px(size))
        font.setWeight(QFont.Weight.DemiBold if strong else QFont.Weight.Normal)
        if figures and strong:
            font.setWeight(QFont.Weight.Bold)
        return font

    def icon(self, name: str, role: str = "ink") -> QIcon:
        """An icon in a colour of the palette."""
        icon = QIcon()
        for size in (16, 20, 32, 64):
            icon.addPixmap(self.pixmap(name, size, role))
        return icon

    def pixmap(self, name: str, size: int, role: str = "ink") -> QPixmap:
        """An icon as a pixmap of ``size`` pixels."""
        code = _icon_text(name).replace("currentColor", getattr(self.palette, role))
        renderer = QSvgRenderer(QByteArray(code.encode("utf-8")))
        pixmap = QPixmap(QSize(size, size))
        pixmap.fill(Qt.GlobalColor.transparent)
        with QPainter(pixmap) as painter:
            renderer.render(painter)
            return pixmap

    def set_to(self, dark: bool, large: bool) -> None:
        """Change theme or type size for the whole application."""
        self.dark, self.large = dark, large
        self.apply()
        self.changed.emit()

    def apply(self) -> None:
        """Give the application its fonts and palette, and make the style sheet that its parts are styled in."""
        app = QApplication.instance()
        if not isinstance(app, QApplication):
            return
        if not self._sheet:
            self._families = _families()
            # One widget style on every desktop: the style sheet and all measured sizes rely on it.
            app.setStyle("Fusion")
        app.setFont(self.font())
        app.setPalette(self._qt_palette())
        self._sheet = self._style_sheet()

    def apply_style(self, part: QWidget) -> None:
        """Give a part of the window, or a dialog, the style sheet of now.

        Parts are styled one by one, when they come into sight: a sheet for the whole application is applied to every
        widget of every page at each change, which takes more than a second. So are the widgets in a stack, and what
        holds a stack therefore has no sheet of its own, which its stack's hidden widgets would follow.
        """
        stacks = part.findChildren(QStackedWidget)
        inner: list[QWidget | None]
        if isinstance(part, QStackedWidget):
            inner = [part.currentWidget()]
        elif any(stack.count() > 1 for stack in stacks):
            inner = [one for one in part.children() if isinstance(one, QWidget)]
        else:
            # Setting an equal sheet would still restyle every widget below.
            if part.styleSheet() != self._sheet:
                self._put_on(part)
            inner = [stack.currentWidget() for stack in stacks if stack.count() > 1]
        for one in inner:
            if one is not None:
                self.apply_style(one)

    def _put_on(self, part: QWidget) -> None:
        """Style and widths. A scrolled area lays out all that is in it as soon as its style changes, or its width, while half of it
        is in the other type yet; so that is done once, when all is given."""
        areas = [one for one in (part, *part.findChildren(QScrollArea)) if isinstance(one, QScrollArea)]
        following = [area for area in areas if area.widgetResizable()]
        for area in following:
            area.setWidgetResizable(False)
        part.setStyleSheet(self._sheet)
        self._keep_widths(part)
        for area in following:
            area.setWidgetResizable(True)

    def _keep_widths(self, part: QWidget) -> None:
        if self._widths_in <= {self.large}:
            return  # all were given in this type size; going through every widget would take a tenth of the start
        for one in (part, *widgets_below(part)):
            kept = one.property(WIDTH)
            if kept is not None:
                how, px = kept
                getattr(one, how)(self.px(px))

    def _qt_palette(self) -> QPalette:
        palette = QPalette()
        role = QPalette.ColorRole
        for target, name in (
            (role.Window, "paper"),
            (role.Base, "paper"),
            (role.AlternateBase, "panel"),
            (role.Button, "panel"),
            (role.WindowText, "ink"),
            (role.Text, "ink"),
            (role.ButtonText, "ink"),
            (role.ToolTipBase, "panel"),
            (role.ToolTipText, "ink"),
            (role.PlaceholderText, "muted"),
            (role.Highlight, "tint"),
            (role.HighlightedText, "ink"),
            (role.Link, "accent"),
            (role.Mid, "rule"),
        ):
            palette.setColor(target, self.color(name))
        # Without these the toolkit greys disabled text by itself, with too little contrast in the dark theme.
        for target in (role.WindowText, role.Text, role.ButtonText):
            palette.setColor(QPalette.ColorGroup.Disabled, target, self.color("muted"))
        return palette

    def _style_sheet(self) -> str:
        text = Path(__file__).with_name("style.qss").read_text("utf-8")
        sizes = {name: f"{self.px(size)}px" for name, size in _SIZES.items()}
        colors = {name: value for name, value in vars(self.palette).items() if isinstance(value, str)}
        families = {"text_family": self._families[0], "figure_family": self._families[1]}
        # A style sheet cannot recolour a picture, so there is one for each theme.
        tick = asset("icons", "tick-dark.svg" if self.dark else "tick-light.svg")
        return Template(text).substitute(**colors, **sizes, **families, tick=Path(str(tick)).as_posix())


_SIZES = {"small": SMALL, "normal": NORMAL, "heading": HEADING, "verdict": VERDICT, "rail": 176, "row": 25, "box": 13}


@cache
def _families() -> tuple[str, str]:
    """Load the fonts that ship with the program; their family names, text and figures."""
    for name in ("Inter-Regular.ttf", "Inter-SemiBold.ttf", "B612-Regular.otf", "B612-Bold.otf"):
        QFontDatabase.addApplicationFontFromData(QByteArray(asset("fonts", name).read_bytes()))
    return ("Inter", "B612")


@cache
def _icon_text(name: str) -> str:
    return asset("icons", f"{name}.svg").read_text("utf-8")


look = Look()
"""The one look of the running application."""
