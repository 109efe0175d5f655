"""The open case file: types, reading it, checking it."""
