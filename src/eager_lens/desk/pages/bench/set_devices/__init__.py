"""Setting devices over the network: what differs, what is sent once somebody agreed, and what came of it."""
