"""What is worked out about a job: its figures, the facts that rules look at, and the rules that find what is wrong.

Words and shapes that show it stand in ``present``, what could be done instead in ``options``.
"""
