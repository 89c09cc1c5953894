"""The commissioning over the network: what sets devices as the job plans them, in a process of its own, and tells how it goes."""
