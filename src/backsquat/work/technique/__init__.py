"""Bodies seen from the side: pictures, what was marked in them, and the numbers that go on from there."""
