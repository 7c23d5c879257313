"""What ``make bench`` runs: ratios measured in one run, on a seeded batch of 1,280 specimens."""
