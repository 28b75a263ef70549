"""What a running program must bear: requests nobody would send, files made to harm, many people at once."""
