"""The aircraft that ship."""
