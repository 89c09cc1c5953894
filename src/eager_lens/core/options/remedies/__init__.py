"""What a practitioner would do about a finding: edits to choose from, each with what it changes."""
