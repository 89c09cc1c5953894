"""Storage and bandwidth: bit rates, disk space, drive arrays, days kept."""
