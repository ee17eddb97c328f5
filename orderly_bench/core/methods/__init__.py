"""One test, interval or model a file: plain arrays in, a frozen result out, no knowledge of trials."""
