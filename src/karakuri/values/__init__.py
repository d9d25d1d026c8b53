"""Values that are checked as they are made: how they are declared, how they are read, what they can do. What there are of them is in `model`."""
