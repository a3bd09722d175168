"""Vocabulary of every wing: units, stated values, moments, errors, findings, changes, cautions."""
