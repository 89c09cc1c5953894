"""What goes out: sheets for each reader, the pack of them all, and the formats that they are written in."""
