"""The rehearsal on simulated devices, by hand, and practice with hidden faults."""
