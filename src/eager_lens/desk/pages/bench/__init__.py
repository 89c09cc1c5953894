"""The Bench page."""

from eager_lens.desk.pages.bench.page import BenchPage as make

__all__ = ["make"]
