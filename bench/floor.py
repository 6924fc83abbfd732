"""The floor: Arrow reads every column as text and writes it back. Called with extract and output.

Without an output it only reads.
"""

from __future__ import annotations

import sys

import pyarrow as pa
import pyarrow.csv


def main(extract: str, output: str = "") -> None:
    with open(extract, encoding="utf-8") as file:
        header = file.readline().rstrip("\n")
    delimiter = ";" if ";" in header else ","
    names = header.split(delimiter)
    reader = pyarrow.csv.open_csv(
        extract,
        pyarrow.csv.ReadOptions(block_size=4 << 20),
        pyarrow.csv.ParseOptions(delimiter=delimiter, newlines_in_values=True),
        pyarrow.csv.ConvertOptions(
            column_types={name: pa.string() for name in names},
            strings_can_be_null=True,
            null_values=[""],
            quoted_strings_can_be_null=False,
        ),
    )
    if not output:
        for _ in reader:
            pass
        return
    options = pyarrow.csv.WriteOptions(delimiter=delimiter)
    with pyarrow.csv.CSVWriter(output, reader.schema, write_options=options) as writer:
        for batch in reader:
            writer.write_batch(batch)


if __name__ == "__main__":
    main(*sys.argv[1:])
