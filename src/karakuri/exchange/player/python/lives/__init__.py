"""What a figure does by itself, in plain Python: the same as the bench's, tick by tick. Tables in figure.json."""
