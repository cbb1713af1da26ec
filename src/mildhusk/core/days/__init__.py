"""The days: what is to be done, by whom, where and when, and what collides."""
