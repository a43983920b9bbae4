"""Data, training and evaluation of the network that reads chordal recordings (see README.md)."""
