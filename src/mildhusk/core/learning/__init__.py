"""What pours teach."""
