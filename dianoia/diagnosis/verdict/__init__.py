"""What is told: judgements, sentences, warnings, the verdict."""
