"""Several jobs of one vehicle."""
