"""What is analysed: one file per response, with its scale, its reading from a cell and from a score, and its words."""
