"""A firm's own lists, apart from any job: make profiles, prices and rates, label stock, templates."""
