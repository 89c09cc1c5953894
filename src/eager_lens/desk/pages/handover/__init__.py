"""The Handover page."""

from eager_lens.desk.pages.handover.page import HandoverPage

PAGE = HandoverPage

__all__ = ["PAGE"]
