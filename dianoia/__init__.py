"""Dianoia's core: the job of finding out what a sensor code really means.

The folders stand in the order a technician works: ``quantities``, ``codes``, ``vehicle``, ``families``,
``circuit``, ``readings``, ``diagnosis``. Each area names alike the files that do alike things:
``types.py`` holds frozen dataclasses, ``tables.py`` loads the area's data files from its ``data/`` folder,
and every other file does the one thing its name says. Nothing here imports Django.
"""
