"""What several stages use: sentences, sections, figures, words for numbers, cautions."""
