"""The Sizing page."""

from eager_lens.desk.pages.sizing.page import SizingPage as make

__all__ = ["make"]
