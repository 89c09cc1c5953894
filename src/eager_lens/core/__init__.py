"""Everything that can be worked out without a window. The rooms, and which may stand on which, are in docs/architecture.md."""
