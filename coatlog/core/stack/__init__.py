"""What may lie on what: surfaces, how they are prepared, the rules of a stack, and the search for one."""
