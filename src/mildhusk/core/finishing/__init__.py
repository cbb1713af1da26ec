"""The finish: what is done to a husk after it came out, and when paint may go on."""
