"""What is worked out of a job: figures of devices, recorders, wires, rates and the days that can be promised, and the facts
that rules look at.
"""
