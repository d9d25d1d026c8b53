"""Analyses as frozen requests: what each is given is all it can depend on, and makes its key."""
