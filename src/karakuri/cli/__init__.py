"""Commands without a window."""
