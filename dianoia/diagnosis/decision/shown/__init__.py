"""What readings show of a part, by what came out and not by what was taken: bad where a reading alone makes a fault three times likelier."""
