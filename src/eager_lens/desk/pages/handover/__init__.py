"""The Handover page."""

from eager_lens.desk.pages.handover.page import HandoverPage as make

__all__ = ["make"]
