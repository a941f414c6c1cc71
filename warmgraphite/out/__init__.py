"""What leaves the house: a drawing or a board as a file of any format that is given, with its layers."""
