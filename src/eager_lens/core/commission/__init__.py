"""What a device is set to as the job plans it: which settings differ, in which order they are made, and what came of it.

Pure: what is sent is in ``onsite.commission``.
"""
