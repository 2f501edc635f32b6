"""What is kept from plan to plan, outside any plan: practice, own times, and the index over all plans."""
