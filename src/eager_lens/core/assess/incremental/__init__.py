"""What saves work from edit to edit: traits of single cameras, groups by them, rules whose findings still hold, and what is
taken over.
"""
