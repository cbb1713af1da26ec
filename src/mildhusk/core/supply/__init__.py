"""What to buy and what it costs."""
