"""What a report claims of its methods: each claim with a key, made only of what is printed."""
