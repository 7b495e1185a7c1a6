"""Machines reached over the network. Nothing here asks whether one is simulated."""
