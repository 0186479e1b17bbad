"""The table of quantities: what the simulated engines give, what is expected, and by which source; each row is a test."""
