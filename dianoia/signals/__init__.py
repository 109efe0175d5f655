"""Recordings and scope captures: read from files, kept, measured, and drawn."""
