"""Iron Gulp: fuel-system sizing for performance engine specialists."""

__version__ = "0.1.0"
