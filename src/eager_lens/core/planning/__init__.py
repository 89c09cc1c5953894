"""Algorithms that plan a whole job, as edits: how cameras are attached and plugged in, switches that are enough, channels,
addresses.
"""
