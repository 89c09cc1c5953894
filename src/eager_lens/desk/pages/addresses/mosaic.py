"""A subnet as a mosaic: one tile an address, so that pool, gaps and clashes are seen at a glance."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QBrush, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from eager_lens.core.addressing.ipv4 import Subnet, address_text
from eager_lens.core.assess.finding import Severity
from eager_lens.core.reference.roles import ROLE_RECORDS, Role
from eager_lens.desk.accessible import AccessibleRole
from eager_lens.desk.guard import kept_within
from eager_lens.desk.theme import look
from eager_lens.desk.theme.look import SMALL
from eager_lens.desk.widgets.marks import paint_mark
from eager_lens.desk.widgets.plain_words import show_tip

TILES_ACROSS = 16

LEFT, TOP = 34, 18
"""Room for the scales."""

MOST_TILES = 1024
"""A larger subnet is shown block by block, each tile a run of addresses."""


@dataclass(frozen=True)
class Tenant:
    """A device on an address."""

    id: str
    name: str
    role: Role
    severity: Severity | None


@dataclass(frozen=True)
class MosaicData:
    """A subnet, its gateway and pool as numbers, and who has which address."""

    subnet: Subnet
    gateway: int | None
    pool: tuple[int, int] | None
    tenants: dict[int, tuple[Tenant, ...]]


class Mosaic(QWidget):
    """Draws a ``MosaicData``. Clicking a tile selects its devices; arrow keys walk from tile to tile."""

    accessible_role = AccessibleRole.Graphic

    selected = Signal(object)
    """Ids of the devices on the tile that was pressed."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._data: MosaicData | None = None
        self._selected_ids: frozenset[str] = frozenset()
        self._cursor = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(look.px(260), look.px(220))
        look.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """Square for a /24."""
        return QSize(look.px(400), look.px(400))

    def show_data(self, data: MosaicData | None, selected_ids: frozenset[str]) -> None:
        """Show a subnet; tiles of selected devices are framed."""
        if data is None or self._data is None or data.subnet != self._data.subnet:
            self._cursor = 0
        self._data, self._selected_ids = data, selected_ids
        if data is not None:
            self.setAccessibleName(f"Addresses of {address_text(data.subnet.network)}/{data.subnet.prefix}")
            held = (
                f"{address_text(at)} {', '.join(one.name for one in who)}" for at, who in sorted(data.tenants.items())
            )
            self.setAccessibleDescription("; ".join(held))
        self.update()

    # ---- geometry ------------------------------------------------------------------------------------------------

    def _per_tile(self) -> int:
        assert self._data is not None
        size = self._data.subnet.broadcast - self._data.subnet.network + 1
        return max(1, size // MOST_TILES)

    def _tile_count(self) -> int:
        assert self._data is not None
        return (self._data.subnet.broadcast - self._data.subnet.network + 1) // self._per_tile()

    def _across(self) -> int:
        total = self._tile_count()
        return TILES_ACROSS if total <= 256 else 32

    def _side(self) -> float:
        rows = math.ceil(self._tile_count() / self._across())
        left = look.px(LEFT)
        return max(
            6.0, min((self.width() - left - 2) / self._across(), (self.height() - look.px(48)) / rows, look.px(34))
        )

    def _rect(self, tile: int) -> QRectF:
        return self._rects([tile])[0]

    def _rects(self, tiles: Iterable[int]) -> list[QRectF]:
        side, across = self._side(), self._across()
        left, top = look.px(LEFT), look.px(TOP)
        return [QRectF(left + side * (tile % across), top + side * (tile // across), side, side) for tile in tiles]

    def _tile_at(self, point: QPointF) -> int | None:
        if self._data is None:
            return None
        side, across = self._side(), self._across()
        column, row = int((point.x() - look.px(LEFT)) // side), int((point.y() - look.px(TOP)) // side)
        tile = row * across + column
        return tile if 0 <= column < across and 0 <= tile < self._tile_count() else None

    def _numbers(self, tile: int) -> range:
        assert self._data is not None
        first = self._data.subnet.network + tile * self._per_tile()
        return range(first, first + self._per_tile())

    def _tenants(self, tile: int) -> list[Tenant]:
        assert self._data is not None
        numbers = self._numbers(tile)
        if len(numbers) == 1:
            return list(self._data.tenants.get(numbers[0], ()))
        return [one for number, ones in self._data.tenants.items() if number in numbers for one in ones]

    # ---- painting ------------------------------------------------------------------------------------------------

    @kept_within
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw every tile, then the legend."""
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            if self._data is None:
                painter.setPen(look.color("muted"))
                words = "Add the subnet of the site above to see its addresses here."
                painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
                return
            self._scale(painter)
            by_tile: dict[int, list[Tenant]] = {}
            for number, tenants in self._data.tenants.items():
                by_tile.setdefault((number - self._data.subnet.network) // self._per_tile(), []).extend(tenants)
            self._tiles(painter, {tile: by_tile[tile] for tile in sorted(by_tile) if 0 <= tile < self._tile_count()})
            self._legend(painter)

    def _scale(self, painter: QPainter) -> None:
        """The last part of the address at each row's start, and the steps above."""
        assert self._data is not None
        painter.setFont(look.font(SMALL, figures=True))
        painter.setPen(look.color("muted"))
        across, per_tile = self._across(), self._per_tile()
        # Rows too low for text get a label only every few rows.
        every = max(1, math.ceil(painter.fontMetrics().height() / self._side()))
        for row in range(0, math.ceil(self._tile_count() / across), every):
            number = self._data.subnet.network + row * across * per_tile
            text = (
                "." + address_text(number).rsplit(".", 1)[1]
                if per_tile == 1
                else ".".join(address_text(number).split(".")[2:])
            )
            rect = self._rect(row * across)
            area = QRectF(0, rect.top(), look.px(30), rect.height() * every if every > 1 else rect.height())
            painter.drawText(area, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
        if per_tile == 1:
            step = max(1, math.ceil(look.px(22) / self._side()))
            for column in range(0, min(across, self._tile_count()), step):
                rect = self._rect(column)
                area = QRectF(rect.left() - 10, 0, rect.width() + 20, look.px(16))
                painter.drawText(area, Qt.AlignmentFlag.AlignCenter, f"+{column}")

    def _tiles(self, painter: QPainter, by_tile: dict[int, list[Tenant]]) -> None:
        """The tiles, and who is on them. All of one look are drawn at once: one by one, a thousand take as long as a page."""
        data, per_tile = self._data, self._per_tile()
        assert data is not None
        rects = [rect.adjusted(1, 1, -1, -1) for rect in self._rects(range(self._tile_count()))]
        painter.setPen(QPen(look.color("rule"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRects(rects[1:-1])
        if per_tile == 1:  # the subnet's own address, and broadcast
            painter.setBrush(look.color("panel"))
        painter.drawRects([rects[0], rects[-1]])
        if data.pool is not None:
            first, last = ((number - data.subnet.network) // per_tile for number in data.pool)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QBrush(look.color("muted", 0.9 if look.dark else 0.45), Qt.BrushStyle.BDiagPattern))
            painter.drawRects(rects[max(0, first) : max(0, last + 1)])
        self._draw_tenants(painter, [(rects[tile], tenants) for tile, tenants in by_tile.items()])
        painter.setFont(look.font(SMALL))
        gateway = -1 if data.gateway is None else data.gateway - data.subnet.network  # may be typed of another subnet
        if per_tile == 1 and 0 <= gateway < len(rects) and gateway not in by_tile:
            painter.setPen(look.color("ink"))
            painter.drawText(rects[gateway], Qt.AlignmentFlag.AlignCenter, "G")
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(look.color("ink"), 2))
        for tile, tenants in by_tile.items():
            if any(tenant.id in self._selected_ids for tenant in tenants):
                painter.drawRect(rects[tile].adjusted(-0.5, -0.5, 0.5, 0.5))
        if self.hasFocus():
            painter.setPen(QPen(look.color("accent"), 2, Qt.PenStyle.DotLine))
            painter.drawRect(rects[self._cursor].adjusted(-1, -1, 1, 1))

    def _draw_tenants(self, painter: QPainter, held: list[tuple[QRectF, list[Tenant]]]) -> None:
        cameras, others, faulty = list[QRectF](), list[QRectF](), list[QRectF]()
        letters: list[tuple[QRectF, str]] = []
        for rect, tenants in held:
            if any(tenant.severity is Severity.FAULT for tenant in tenants):
                faulty.append(rect)
                continue
            (cameras if tenants[0].role == "camera" else others).append(rect)
            letter = ROLE_RECORDS[tenants[0].role].letter if self._per_tile() == 1 else str(len(tenants))
            letters.append((rect, letter))
        painter.setPen(Qt.PenStyle.NoPen)
        for alike, color in (
            (cameras, look.color("accent", 0.72)),
            (others, look.color("accent")),
            (faulty, look.color("paper")),
        ):
            painter.setBrush(color)
            painter.drawRects(alike)
        painter.setPen(QPen(look.color("need"), 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRects(faulty)
        for rect in faulty:
            paint_mark(painter, rect.center(), Severity.FAULT, min(rect.width() - 6, look.px(12)))
        painter.setFont(look.font(SMALL))
        painter.setPen(look.color("on_accent"))
        for rect, letter in letters:
            if rect.width() > 12:
                painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, letter)

    def _legend(self, painter: QPainter) -> None:
        assert self._data is not None
        present = {tenant.role for tenants in self._data.tenants.values() for tenant in tenants}
        words = [f"{record.letter}\u00a0{record.id}" for record in ROLE_RECORDS.values() if record.id in present]
        words += ["hatched:\u00a0DHCP\u00a0pool", "diamond:\u00a0fault"]
        if self._data.gateway is not None:
            words.insert(0, "G\u00a0gateway")
        if self._per_tile() > 1:
            words.insert(0, f"a tile is {self._per_tile()} addresses")
        bottom = self._rect(self._tile_count() - 1).bottom()
        painter.setFont(look.font(SMALL))
        painter.setPen(look.color("muted"))
        area = QRectF(look.px(LEFT), bottom + 4, self.width() - look.px(36), self.height() - bottom - 4)
        how = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
        painter.drawText(area, how, "  ·  ".join(words))

    # ---- mouse and keyboard --------------------------------------------------------------------------------------

    def _press(self, tile: int) -> None:
        self._cursor = tile
        self.selected.emit([tenant.id for tenant in self._tenants(tile)])
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select the devices of a tile."""
        tile = self._tile_at(event.position())
        if tile is not None:
            self._press(tile)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Walk over the tiles; Return or Space selects."""
        if self._data is None:
            super().keyPressEvent(event)
            return
        steps = {
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Up: -self._across(),
            Qt.Key.Key_Down: self._across(),
        }
        if event.key() in steps:
            self._cursor = max(0, min(self._tile_count() - 1, self._cursor + steps[Qt.Key(event.key())]))
            self._press(self._cursor)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._press(self._cursor)
        else:
            super().keyPressEvent(event)

    def event(self, event: object) -> bool:
        """Tell the address and who has it."""
        if isinstance(event, QHelpEvent):
            tile = self._tile_at(QPointF(event.pos()))
            if tile is not None:
                show_tip(event.globalPos(), self.tile_words(tile), self)
                return True
        return super().event(event)  # type: ignore[arg-type]

    def tile_words(self, tile: int) -> str:
        """A tile in words: its address or range, and who has it."""
        assert self._data is not None
        numbers, data = self._numbers(tile), self._data
        words = (
            address_text(numbers[0])
            if len(numbers) == 1
            else f"{address_text(numbers[0])} to {address_text(numbers[-1])}"
        )
        names = [tenant.name for tenant in self._tenants(tile)]
        if names:
            return f"{words}: {', '.join(names[:6])}" + (f" and {len(names) - 6} more" if len(names) > 6 else "")
        if numbers[0] == data.subnet.network and len(numbers) == 1:
            return f"{words}: the subnet's own address"
        if numbers[0] == data.subnet.broadcast:
            return f"{words}: broadcast"
        if numbers[0] == data.gateway:
            return f"{words}: gateway"
        if data.pool is not None and data.pool[0] <= numbers[0] <= data.pool[1]:
            return f"{words}: DHCP pool"
        return f"{words}: free"
