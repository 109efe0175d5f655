"""Sensor families: terminals, nominal values, heater law."""
