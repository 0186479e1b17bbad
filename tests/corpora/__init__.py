"""Seeded corpora that the bench makes: run-ups and leanings nobody has seen, with the truth beside them."""
