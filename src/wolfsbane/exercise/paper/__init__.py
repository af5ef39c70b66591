"""What a call holds and its key: questions, choices, wording, correction, repairs."""
