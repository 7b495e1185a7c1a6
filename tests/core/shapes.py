"""Known shapes, drawn by formula so that their edges lie where we say to a part of a pixel."""

import numpy as np


def canvas(height: int, width: int, colour=(240, 240, 240)) -> np.ndarray:
    rgba = np.zeros((height, width, 4), np.uint8)
    rgba[..., :3] = colour
    return rgba


def disc(radius: float, size: int, colour=(240, 240, 240)) -> np.ndarray:
    y, x = np.mgrid[0:size, 0:size] + 0.5
    rgba = canvas(size, size, colour)
    rgba[..., 3] = np.rint(np.clip(radius - np.hypot(x - size / 2, y - size / 2) + 0.5, 0, 1) * 255)
    return rgba


def square(side: int, size: int) -> np.ndarray:
    rgba = canvas(size, size)
    at = (size - side) // 2
    rgba[at : at + side, at : at + side, 3] = 255
    return rgba


def bar(width_px: float, degrees: float, size: int = 600, length_px: float = 400) -> np.ndarray:
    """A bar through the middle, its edges anti-aliased by coverage."""
    fine = 4
    y, x = (np.mgrid[0 : size * fine, 0 : size * fine] + 0.5) / fine - size / 2
    turn = np.radians(degrees)
    along, across = x * np.cos(turn) + y * np.sin(turn), -x * np.sin(turn) + y * np.cos(turn)
    inside = (np.abs(across) < width_px / 2) & (np.abs(along) < length_px / 2)
    alpha = inside.reshape(size, fine, size, fine).mean(axis=(1, 3))
    rgba = canvas(size, size)
    rgba[..., 3] = np.rint(alpha * 255)
    return rgba
