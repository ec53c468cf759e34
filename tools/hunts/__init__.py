"""Random parts and sketches, each family with an oracle of its own. The tests run a small fixed size of each."""
