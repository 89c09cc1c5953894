"""Colours, sizes, fonts, icons and style sheets: the only place that holds any of them."""

from eager_lens.desk.theme.look import SPACE, Look, look

__all__ = ["SPACE", "Look", "look"]
