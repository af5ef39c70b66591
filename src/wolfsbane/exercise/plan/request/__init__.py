"""A request in a sentence: what it asks of a brief, what was made of which words, and what nothing was made of."""
