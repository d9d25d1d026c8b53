"""What a figure does when, by itself: run in simulation at any speed, with what it notices given tick by tick."""
