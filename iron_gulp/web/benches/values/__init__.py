"""The page of values: what is entered in the controller."""
