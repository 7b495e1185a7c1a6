"""Simulated machines that ship with the demo. Nothing in src imports them: they are reached like any machine, over the network."""
