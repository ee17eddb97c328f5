"""One's own account: where one is signed in, the password, the second factor."""
