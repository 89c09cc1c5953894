"""How each kind of figure came about; ``core.present.working`` finds the one for a figure."""
