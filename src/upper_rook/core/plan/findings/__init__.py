"""Findings by cause."""
