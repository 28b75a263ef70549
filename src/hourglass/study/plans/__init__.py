"""Plans: a study as a document that can be applied to other files, sealed, and departed from."""
