"""Pages of a PDF as pictures, as the printed sheet will look.

The library that draws them is not made for threads: two that are in it at once end the process. So there is one lock for
all of it, and everything that it hands out is closed before the lock is let go, not whenever it is collected.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing, contextmanager
from typing import Any, NamedTuple

from eager_lens.core.progress import turn

_DRAWING = threading.Lock()


class PagePicture(NamedTuple):
    """A drawn page: its number from 0, its size in pixels, and its pixels, row by row, red, green and blue."""

    number: int
    width_px: int
    height_px: int
    rgb: bytes


@contextmanager
def _opened(pdf: bytes) -> Iterator[Any]:
    import pypdfium2  # only those who look at sheets need it

    with closing(pypdfium2.PdfDocument(pdf)) as document:
        yield document


def page_shapes(pdf: bytes, step: Callable[[float], None] = lambda share: None) -> tuple[tuple[float, float], ...]:
    """Width and height of every page, in points."""
    with turn(_DRAWING, step), _opened(pdf) as document:
        return tuple(document.get_page_size(at) for at in range(len(document)))


def drawn_pages(
    pdf: bytes, numbers: Sequence[int], width_px: int, step: Callable[[float], None] = lambda share: None
) -> list[PagePicture]:
    """Some pages as pictures of a width. ``step`` is told before each page, and may raise to stop.

    Others get their turn between two pages.
    """
    pictures = []
    for at, number in enumerate(numbers):
        step(at / len(numbers))
        with turn(_DRAWING, step), _opened(pdf) as document, closing(document[number]) as page:
            scale = width_px / page.get_width()
            with closing(page.render(scale=scale, rev_byteorder=True, prefer_bgrx=False)) as bitmap:
                picture = bitmap.to_pil().convert("RGB")
                pictures.append(PagePicture(number, picture.width, picture.height, picture.tobytes()))
    return pictures
