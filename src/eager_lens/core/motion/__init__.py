"""Motion rules tried before the wind does: a drawn scene with ground truth, a detector, a day of both, and tuning.

``rule`` and ``view`` are plain values; ``scene``, ``detector``, ``day`` and ``tuning`` need NumPy and SciPy and are loaded
when they are first used.
"""
