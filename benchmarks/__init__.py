"""What things cost, as ratios to a floor measured in the same run. ``make bench`` runs all."""
