"""What a code says, and which of several to take first."""
