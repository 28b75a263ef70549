"""What a study is at a moment, without HTTP and without a database."""
