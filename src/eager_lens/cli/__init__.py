"""Commands for scripts: each a function that takes the parsed arguments and returns the exit status."""
