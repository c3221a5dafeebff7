"""Energy over time: what the loads take in a day, what the bank must hold, how the days go."""
