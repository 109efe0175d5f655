"""What is said on paper."""
