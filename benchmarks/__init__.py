"""Speed and memory, measured as ratios to public primitives in the same run."""
