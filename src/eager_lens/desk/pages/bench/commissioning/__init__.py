"""The commissioning plan: its steps in order, and when they are done."""
