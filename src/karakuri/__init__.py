"""Karakuri: a bench that tells builders of animatronic figures what will sag, lean or stop before it does."""

__version__ = "0.1.0"
