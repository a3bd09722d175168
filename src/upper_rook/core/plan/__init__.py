"""The plan: settings and their reasons."""
