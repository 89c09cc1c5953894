"""The Sizing page."""

from eager_lens.desk.pages.sizing.page import SizingPage

PAGE = SizingPage

__all__ = ["PAGE"]
