"""Papers: what one pins to the wall, carries along, sends off; each a value that one renderer draws."""
