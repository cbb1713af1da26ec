"""Scale, room probe, machine, turn sensor: how they speak, how they are reached, stand-ins."""
