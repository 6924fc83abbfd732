"""A JSON array of objects."""

from __future__ import annotations

from mangler.formats.json.format import JsonFormat

FORMAT = JsonFormat("JSON array", frozenset({"json"}), (".json",), in_array=True)
