"""The front end's own modules."""
