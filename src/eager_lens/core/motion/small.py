"""The small picture that a detector looks at, and how often. Apart from all that looks at it, for whoever makes such pictures."""

WIDE, HIGH = 160, 90
"""In pixels."""

FPS = 5.0
"""Pictures that are looked at in a second."""
