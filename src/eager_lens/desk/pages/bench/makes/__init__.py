"""Makes: how devices of each make behave."""
