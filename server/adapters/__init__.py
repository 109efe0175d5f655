"""Adapters: processes that stand between a job and the instruments it is connected to."""
