"""How a coat lands: film and pool of a curing liquid on a turning mould."""
