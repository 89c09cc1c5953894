"""Ordered work: the commissioning of a job's devices as steps, their times for one or two people, and playing them."""
