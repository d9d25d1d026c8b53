"""Wiring: from boards, plugs and places to one table of wires, what crosses each joint, what clashes, and how long each is cut."""
