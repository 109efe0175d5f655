"""The management commands: ``manage.py serve`` and those for the store."""
