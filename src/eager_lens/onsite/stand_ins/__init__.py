"""The job's devices on real sockets: HTTP pages, RTSP streams, discovery, time, leases.

``places`` says where a device's sockets are opened: in a network namespace of its own, or on a loopback address. ``running``
starts and ends a whole site.
"""
