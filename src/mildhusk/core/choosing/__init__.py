"""Which materials and which mould: the chain decided backwards, both sides of a debate."""
