"""What could be done instead, and what it would bring: what helps most, ways of wiring and addressing, the days that can be
promised, the best picture, the cheapest drives. All of it works on an assessment and proposes; none of it changes a job.
"""
