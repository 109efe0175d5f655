"""One reader for each kind of file; all of them give traces."""
