"""What stands beside the pages: rail, header with search, findings, workings, readout, start page, import."""
