"""Power to devices: over Ethernet, over a DC run, and from a battery when the mains are gone."""
