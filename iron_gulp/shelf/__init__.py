"""The parts shelf: generic, brand-free parts with complete data, held as data files."""

from .shelf import KINDS, Shelf, load_shelf

__all__ = ["KINDS", "Shelf", "load_shelf"]
