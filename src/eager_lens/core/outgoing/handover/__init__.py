"""What is handed over: sheets for each reader, the offer with its sums, labels, and the pack of them all."""
