"""What was decided before anything is sized: site, carrying, money, practice."""
