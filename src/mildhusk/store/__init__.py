"""What is kept: tables, and how to reach them."""
