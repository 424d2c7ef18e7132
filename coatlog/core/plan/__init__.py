"""What first, what next: from what is still to do in a shop to one plan for all of it."""
