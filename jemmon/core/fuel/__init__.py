"""Fuel by tank, as it is flown and as it is planned."""
