"""The job's devices as they are to run on a network that exists on this computer only.

``commissioned`` brings the simulated site of the rehearsal to the state that the plan wants; ``faults`` breaks it in the
ways that sites are broken; ``stand_in`` describes each device so that it can run on real sockets. Nothing here opens
a socket.
"""
