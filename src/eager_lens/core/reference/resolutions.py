"""Resolutions that cameras offer, by the shape of the picture, smallest first."""

from __future__ import annotations

Size = tuple[int, int]

WIDE: tuple[Size, ...] = (
    *((640, 360), (960, 540), (1280, 720), (1600, 900), (1920, 1080)),
    *((2304, 1296), (2560, 1440), (2688, 1520), (3200, 1800), (3840, 2160)),
)
TALL: tuple[Size, ...] = (
    (640, 480),
    (800, 600),
    (1024, 768),
    (1280, 960),
    (1600, 1200),
    (2048, 1536),
    (2592, 1944),
    (4000, 3000),
)
BETWEEN: tuple[Size, ...] = ((720, 480), (1080, 720), (1440, 960), (2160, 1440), (3072, 2048))
SQUARE: tuple[Size, ...] = ((640, 640), (1080, 1080), (1280, 1280), (1920, 1920), (2160, 2160), (2880, 2880))

SHAPES = ((16 / 9, WIDE), (4 / 3, TALL), (3 / 2, BETWEEN), (1.0, SQUARE))
ALIKE = 0.04
"""A shape counts as one of these when its sides' ratio differs by less than this share."""


def sizes_like(width_px: int, height_px: int) -> tuple[Size, ...]:
    """The sizes of a picture's shape that cameras offer; none for a shape of its own (a panorama, a corridor on end)."""
    ratio = width_px / height_px
    off, sizes = min((abs(ratio / shape - 1), sizes) for shape, sizes in SHAPES)
    return sizes if off < ALIKE else ()


def smaller_than(width_px: int, height_px: int) -> list[Size]:
    """Those that are smaller than a picture, largest first."""
    return [size for size in reversed(sizes_like(width_px, height_px)) if size[0] < width_px]


def of_width(width_px: int, height_px: int, wanted_px: int) -> Size:
    """A picture's size at another width: what cameras offer where they do, else in the picture's own shape."""
    for size in sizes_like(width_px, height_px):
        if size[0] == wanted_px:
            return size
    return wanted_px, max(16, round(height_px * wanted_px / width_px / 2) * 2)


NEAR_MEGAPIXELS = 0.1
"""Sizes are sold by rounded megapixels: so far off, as a share, is the same."""


def of_megapixels(megapixels: float) -> Size | None:
    """The size that is meant by so many megapixels: a wide one where there is one, else of another shape; None where cameras
    offer none so large."""

    def off(size: Size) -> float:
        return abs(size[0] * size[1] / 1e6 / megapixels - 1)

    for sizes in (WIDE, (*TALL, *BETWEEN, *SQUARE)):
        nearest = min(sizes, key=off)
        if off(nearest) <= NEAR_MEGAPIXELS:
            return nearest
    return None
