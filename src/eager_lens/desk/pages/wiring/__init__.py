"""The Wiring page."""

from eager_lens.desk.pages.wiring.page import WiringPage as make

__all__ = ["make"]
