"""The JSON API under /api/v1, and the built front end beside it."""
