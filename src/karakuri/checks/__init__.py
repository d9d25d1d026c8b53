"""From results to findings, one file per family of rules; all of them stand in rules.py."""
