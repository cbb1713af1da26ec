"""The days: who is there, what is to be done, the plan of it, and what was done."""
