"""Offsetter takes a transfer print job from an order to a pressed, inspected piece."""
