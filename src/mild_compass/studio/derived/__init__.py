"""What follows from the plan, made when it is needed and kept by what it was made from."""
