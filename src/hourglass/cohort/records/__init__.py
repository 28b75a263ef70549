"""Further tables of a study: dated records and periods of its subjects, and what is made of them."""
