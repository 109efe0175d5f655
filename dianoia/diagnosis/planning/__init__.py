"""What to read next."""
