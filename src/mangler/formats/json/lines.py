"""JSON Lines: one object per line."""

from __future__ import annotations

from mangler.formats.json.format import JsonFormat

FORMAT = JsonFormat("JSON Lines", frozenset({"jsonl"}), (".jsonl", ".ndjson"), in_array=False)
