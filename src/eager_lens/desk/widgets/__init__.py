"""Reusable pieces of the window. None knows a page; each can be shown and tested by itself."""
