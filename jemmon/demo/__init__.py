"""Invented aircraft, people and flights, and what builds the demo database from them."""
