"""Subnets and addresses: reading them, judging them, planning them."""
