"""Processes and threads: whose work goes first."""
