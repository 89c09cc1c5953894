"""The Bench page."""

from eager_lens.desk.pages.bench.page import BenchPage

PAGE = BenchPage

__all__ = ["PAGE"]
