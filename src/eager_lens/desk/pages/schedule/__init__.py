"""The Week page."""

from eager_lens.desk.pages.schedule.page import SchedulePage

PAGE = SchedulePage

__all__ = ["PAGE"]
