"""The site check in the network of this very process: a job, passwords and switches as JSON in, the run as JSON out."""

import json
import sys

from eager_lens.onsite.check.visit import visiting

given = json.load(sys.stdin)
found = None
for what, value in visiting(given["job"], given["switches"], given["passwords"], {}):
    if what == "run":
        found = value
print(json.dumps(found))
