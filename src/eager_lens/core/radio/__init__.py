"""Wireless bridges: link budget, clearance and what they carry."""
