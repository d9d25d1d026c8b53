"""Features by school: one file a starter."""
