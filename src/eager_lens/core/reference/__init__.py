"""Tables that calculations read: data files with their source, and the small modules that load them."""
