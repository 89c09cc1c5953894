"""A job from what a customer says on the telephone: the questions, what they become, and an offer of one page."""
