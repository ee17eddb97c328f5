"""What the program says of the evidence, in one catalogue: another language is another module beside ``english``."""
