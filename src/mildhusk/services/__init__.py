"""The use cases, one module per station; the only place with queries."""
