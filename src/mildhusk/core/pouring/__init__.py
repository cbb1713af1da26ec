"""The steps of a pour, and how it compares with its plan."""
