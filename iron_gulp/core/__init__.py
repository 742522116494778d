"""The trade's rules and physics: NumPy arrays in, NumPy arrays out, no interface, database or files."""
