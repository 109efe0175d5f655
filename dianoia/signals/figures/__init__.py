"""Figures of traces: one file for each kind of signal."""
