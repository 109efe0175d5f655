"""The papers of a job, set as PDF."""
