"""The field sheet: one HTML file for a telephone, what comes back from it, and how that is taken into the job."""
