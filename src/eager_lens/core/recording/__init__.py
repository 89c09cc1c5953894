"""When pictures are kept: weeks of modes, and clips that events cut out of time."""
