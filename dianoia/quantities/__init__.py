"""Text a person types, turned into numbers with units, and back."""
