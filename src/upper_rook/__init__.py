"""Upper Rook: set a car audio system's levels and crossovers by measurement."""

__version__ = "0.1.0"
