"""What answers on the site's network: reading the list of a scan, and comparing it with the job."""
