"""Every figure of the demo builds as plain data, to hold a rewritten core against."""
