"""Jobs and their ledger."""
