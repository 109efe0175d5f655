"""The server: jobs, their ledger and the files; every rule of the job is asked of the core."""
