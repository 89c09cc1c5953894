"""The Week page."""

from eager_lens.desk.pages.week.page import WeekPage

PAGE = WeekPage

__all__ = ["PAGE"]
