"""Drift on processes whose weeks are known: false alarms on ordinary ones, and changes that were planted."""
