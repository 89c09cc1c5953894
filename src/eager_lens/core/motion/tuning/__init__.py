"""A better rule: settings and exclusion zones tried in several weathers, the one with margin proposed, and proved on other days."""
