"""The page of ceilings: what this system can do on every blend."""
