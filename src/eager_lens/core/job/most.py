"""How many devices a job may hold. Apart from the job, for whoever reads files and needs no more of it."""

MOST_CAMERAS = 20_000
MOST_OTHERS = 5_000
