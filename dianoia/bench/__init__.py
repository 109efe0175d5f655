"""A simulated vehicle: the same circuit with a hidden fault, and how well the engine finds it."""
