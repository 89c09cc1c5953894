"""The site check: what real devices say against the plan, and taking it over."""
