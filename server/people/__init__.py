"""Who works here: accounts, roles, and the bench without passwords."""
