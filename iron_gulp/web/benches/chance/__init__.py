"""The page of chances: how sure the verdict is."""
