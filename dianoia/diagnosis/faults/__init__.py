"""What can be wrong with a sensor's circuit, how often, and what is seen of it."""
