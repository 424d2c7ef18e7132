"""Facts and entries in, states and plans out."""
