"""What a check of the real site is to look at, what it read, and what that means beside the plan. No socket is opened here.

``scope`` says what will be sent, and where to; ``readings`` is what comes back, as it is kept; ``verdicts`` sets it beside the
plan, worst first; ``take_over`` brings it into the job; ``since`` compares two runs; ``run_file`` keeps runs beside the job.
"""
