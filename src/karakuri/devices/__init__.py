"""Boards: the line protocol, the sender that keeps 50 frames a second in a process of its own, and stand-ins."""
