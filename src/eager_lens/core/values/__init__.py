"""Values that the job holds and motion works with: a motion rule, what was marked on a clip, weather."""
