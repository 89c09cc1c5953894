"""The benchmarks: each a ratio against a reference that is measured in the same run, so that it says the same on any machine."""
