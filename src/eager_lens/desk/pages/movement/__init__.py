"""The Movement page."""

from eager_lens.desk.pages.movement.page import MovementPage

PAGE = MovementPage

__all__ = ["PAGE"]
