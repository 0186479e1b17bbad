"""The web layer: requests checked, the core called, answers given. No formula and no SQL here."""

from .app import create_app

__all__ = ["create_app"]
