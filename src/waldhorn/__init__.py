"""Waldhorn checks used brushless motors between heats and answers: keep, watch, repair or retire."""

__version__ = "0.5.0"
