"""The Motion page."""

from eager_lens.desk.pages.motion.page import MotionPage

PAGE = MotionPage

__all__ = ["PAGE"]
