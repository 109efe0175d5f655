"""The doors: typed arguments, one call into the store or the core, a typed answer."""
