"""How each kind of figure came about; ``core.assess.working`` finds the one for a figure."""
