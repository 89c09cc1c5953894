"""The Wiring page."""

from eager_lens.desk.pages.wiring.page import WiringPage

PAGE = WiringPage

__all__ = ["PAGE"]
