"""A camera's motion rule tried: in a drawn scene or on a clip of its own, and what came of it in words and seconds.

``tried`` is plain; the others need NumPy, SciPy and PyAV and are loaded when they are first used.
"""
