"""From readings to belief, proof, decision and the next reading."""
