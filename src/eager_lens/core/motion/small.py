"""Size and rate of the small pictures that the detector sees. A separate module, because makers of pictures need only this."""

WIDE, HIGH = 160, 90
"""In pixels."""

FPS = 5.0
"""Pictures that are looked at in a second."""
