"""The way back: from limits to settings. Which picture is best within them, and which drives are cheapest."""
