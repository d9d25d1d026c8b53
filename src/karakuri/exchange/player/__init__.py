"""The player for small controllers: tables from a figure's score, C++ beside them, and how much it takes before it is written."""
