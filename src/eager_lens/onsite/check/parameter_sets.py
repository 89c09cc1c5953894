"""The size of a picture, out of the sequence parameter set that a stream sends before it: nothing is decoded for it."""

from __future__ import annotations

MOST_BYTES = 4096
SMALLEST_PX, LARGEST_PX = 16, 16_384
_EXTENDED_PROFILES = (100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135)
_ACROSS, _DOWN = {0: 1, 1: 2, 2: 2, 3: 1}, {0: 1, 1: 2, 2: 1, 3: 1}
"""Luma samples to a chroma sample, by chroma_format_idc."""


class _Bits:
    """Bits of a NAL unit, with the bytes that prevent start codes taken out (ITU-T H.264, 7.3.1)."""

    def __init__(self, unit: bytes) -> None:
        data = unit[:MOST_BYTES].replace(b"\x00\x00\x03", b"\x00\x00")
        self._value, self._left = int.from_bytes(data, "big"), len(data) * 8

    def take(self, bits: int) -> int:
        """An unsigned number of a given number of bits.

        Raises:
            ValueError: at the end.
        """
        if bits > self._left:
            raise ValueError("the set ends too early")
        self._left -= bits
        return self._value >> self._left & (1 << bits) - 1

    def ue(self) -> int:
        """An unsigned number as Exp-Golomb code (9.1)."""
        zeros = 0
        while not self.take(1):
            zeros += 1
            if zeros > 32:
                raise ValueError("no such number")
        return (1 << zeros) - 1 + self.take(zeros)

    def se(self) -> int:
        """A signed one."""
        code = self.ue()
        return (code + 1) // 2 if code % 2 else -(code // 2)


def size_of(codec: str, unit: bytes) -> tuple[int, int] | None:
    """Width and height in px out of a sequence parameter set (a NAL unit without its start code); None where it is none."""
    try:
        wide, high = _h264(_Bits(unit[1:])) if codec == "h264" else _h265(_Bits(unit[2:]))
    except (ValueError, KeyError):
        return None
    return (wide, high) if all(SMALLEST_PX <= one <= LARGEST_PX for one in (wide, high)) else None


def _h264(bits: _Bits) -> tuple[int, int]:
    """ITU-T H.264, 7.3.2.1.1."""
    profile = bits.take(8)
    bits.take(16)
    bits.ue()
    chroma, planes = 1, 0
    if profile in _EXTENDED_PROFILES:
        chroma = bits.ue()
        planes = bits.take(1) if chroma == 3 else 0
        bits.ue(), bits.ue(), bits.take(1)
        if bits.take(1):
            for at in range(12 if chroma == 3 else 8):
                if bits.take(1):
                    _skip_scaling(bits, 16 if at < 6 else 64)
    bits.ue()
    order = bits.ue()
    if order == 0:
        bits.ue()
    elif order == 1:
        bits.take(1), bits.se(), bits.se()
        for _ in range(min(bits.ue(), 256)):
            bits.se()
    bits.ue(), bits.take(1)
    wide, high = (bits.ue() + 1) * 16, (bits.ue() + 1) * 16
    frames_only = bits.take(1)
    if not frames_only:
        bits.take(1)
        high *= 2
    bits.take(1)
    across, down = (1, 1) if planes else (_ACROSS[chroma], _DOWN[chroma])
    return _cropped(bits, wide, high, across, down * (2 - frames_only))


def _skip_scaling(bits: _Bits, many: int) -> None:
    last = following = 8
    for _ in range(many):
        if following:
            following = (last + bits.se()) % 256
        last = following or last


def _h265(bits: _Bits) -> tuple[int, int]:
    """ITU-T H.265, 7.3.2.2; the profiles and levels before the size are 7.3.3."""
    bits.take(4)
    layers = bits.take(3)
    bits.take(1)
    bits.take(88), bits.take(8)
    present = [(bits.take(1), bits.take(1)) for _ in range(layers)]
    if layers:
        bits.take(2 * (8 - layers))
    for has_profile, has_level in present:
        bits.take(88 * has_profile + 8 * has_level)
    bits.ue()
    chroma = bits.ue()
    planes = bits.take(1) if chroma == 3 else 0
    wide, high = bits.ue(), bits.ue()
    across, down = (1, 1) if planes else (_ACROSS[chroma], _DOWN[chroma])
    return _cropped(bits, wide, high, across, down)


def _cropped(bits: _Bits, wide: int, high: int, across: int, down: int) -> tuple[int, int]:
    if not bits.take(1):
        return wide, high
    left, right, top, bottom = (bits.ue() for _ in range(4))
    return wide - across * (left + right), high - down * (top + bottom)
