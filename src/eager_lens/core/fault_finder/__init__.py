"""Finding a fault on site: from what is seen, by the test that tells most a minute, to its cause and remedy."""
