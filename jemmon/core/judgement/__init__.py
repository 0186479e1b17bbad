"""Judgement: a module a check, each ending in one `CHECK`; `registry` gathers them, `judge` asks them all of a trace."""
