"""What each kind of maker writes, one file a kind: `make` gives its moves, channel id → rows. `model/makers.py` says how to add one."""
