"""The open protocol as a stand-in answers it, for any client of it: one module for each service."""
