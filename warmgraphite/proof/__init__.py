"""The proof: a simulated printer, what of a drawing will fill in on paper, and how it is lifted."""
