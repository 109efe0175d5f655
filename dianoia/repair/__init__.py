"""From the decision to the vehicle handed over: what was done, its proof, and what may come next."""
