"""The Week page."""

from eager_lens.desk.pages.week.page import WeekPage as make

__all__ = ["make"]
