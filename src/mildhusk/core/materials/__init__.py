"""What a data sheet says, and the classes of material that ship with us."""
