"""What figures stand on, and what their heads are clad in: one file a kind."""
