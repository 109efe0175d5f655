"""Geometry of circuit, plug and vehicle; the front end only draws."""
