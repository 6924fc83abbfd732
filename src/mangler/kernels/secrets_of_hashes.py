"""What the hashes of this process start from, and of no other one."""

from __future__ import annotations

import os

import numpy as np

SECRETS = np.frombuffer(os.urandom(8 * 6), np.uint64) | np.uint64(1)
"""The same for all threads. Nobody can write texts beforehand that would be taken for the same."""
