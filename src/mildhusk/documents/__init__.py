"""What leaves the application: bench card, files, models."""
