"""Belief after readings, and the engine that holds it."""
