"""What a job plans of a device in the terms that devices are set in: streams, and motion rules as cells of the picture."""
