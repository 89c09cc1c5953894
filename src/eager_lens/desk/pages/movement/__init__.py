"""The Movement page."""

from eager_lens.desk.pages.movement.page import MovementPage as make

__all__ = ["make"]
