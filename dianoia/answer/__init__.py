"""The verdict and the proof of the repair, joined: what the doors serve."""
