"""One truth: jobs of all sorts, and every figure of them wherever it is shown."""
