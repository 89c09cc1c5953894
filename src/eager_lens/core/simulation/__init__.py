"""The simulated site: the job's devices as state machines on the job's own wires, in simulated time.

``parts`` holds what a device is, ``site`` the clock and the events, ``build`` makes a site of a job. Each habit of the
real thing has its own module: power, segments (who hears whom), reach (addresses, neighbours, ping), leases, access
(first use, passwords), channels (what a recorder takes), clocks, air (radio), service (resets, updates, heat). ``hand``
are the actions of the person at the bench; ``replay`` does those that a job remembers again.

Everything follows from the job, the seed and the actions: the same three give the same site, event by event.
"""
