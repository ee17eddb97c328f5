"""What was drawn, how to draw it again, and the tests that do: shared by design and compare, knowing neither."""
