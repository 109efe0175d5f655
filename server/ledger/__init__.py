"""The ledger of all jobs: entries, their hash chain, the guards in the database, verification and copies."""
