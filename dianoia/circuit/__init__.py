"""The sensor's circuit as a resistor network that instruments read."""
