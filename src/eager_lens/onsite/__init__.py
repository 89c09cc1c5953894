"""Everything that opens a socket: the stand-ins of a site that exists on this computer only, and the check of a site.

``stand_ins`` are the devices, ``check`` is what looks at them, and at real ones. Neither knows the window.
"""
