"""Engine and exhaust layout: where bank and position are."""
