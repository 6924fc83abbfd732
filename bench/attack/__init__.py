"""Mutated extracts and recipes by the thousand: what ends in a fault, hangs, takes too much memory, or loses a cell."""
