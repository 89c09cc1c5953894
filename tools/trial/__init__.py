"""A hard trial of the program: kills, hostile inputs, random use, bad folders, planted secrets, large jobs."""
