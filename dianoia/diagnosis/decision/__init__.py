"""What is proven, what is certain, and when that is enough."""
