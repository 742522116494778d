"""What the shelf offers against a finding: searched when asked for, fitted with one click."""
