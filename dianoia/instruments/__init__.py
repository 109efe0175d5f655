"""Instruments: one small interface to meter, scan tool, scope, clamp and CAN recorder, and simulated ones that ship.

``docs/instruments.md`` shows how an adapter for a real device sits behind it.
"""
