"""A reading as physically said, judged against a healthy circuit."""
