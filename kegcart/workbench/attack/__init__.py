"""What the server must withstand, tried on a running one: `python3 run.py attack`. Seeded, so that it can be repeated."""
