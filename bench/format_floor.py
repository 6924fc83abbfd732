"""The floor of a format: its library alone reads every row and writes it again.

`python -m bench.format_floor FORMAT EXTRACT OUTPUT`
"""

from __future__ import annotations

import sys
from typing import Any


def parquet(extract: str, output: str) -> None:
    import pyarrow.parquet as pq

    file = pq.ParquetFile(extract)
    with pq.ParquetWriter(output, file.schema_arrow, compression="zstd") as writer:
        for batch in file.iter_batches(1 << 17):
            writer.write_batch(batch)


def arrow(extract: str, output: str) -> None:
    import pyarrow as pa

    with pa.OSFile(extract) as file, pa.OSFile(output, "wb") as out:
        reader = pa.ipc.open_file(file)
        with pa.ipc.new_file(out, reader.schema) as writer:
            for index in range(reader.num_record_batches):
                writer.write_batch(reader.get_batch(index))


def jsonl(extract: str, output: str) -> None:
    import orjson

    with open(extract, "rb") as file, open(output, "wb") as out:
        for line in file:
            out.write(orjson.dumps(orjson.loads(line)) + b"\n")


def workbook(extract: str, output: str) -> None:
    import datetime

    import xlsxwriter
    from python_calamine import CalamineWorkbook

    made = xlsxwriter.Workbook(output, {"constant_memory": True})
    sheet = made.add_worksheet("Log")
    form = made.add_format({"num_format": "yyyy-mm-dd hh:mm:ss"})
    writers: dict[type, Any] = {
        str: sheet.write_string,
        float: sheet.write_number,
        bool: sheet.write_boolean,
        datetime.datetime: lambda row, column, value: sheet.write_datetime(row, column, value, form),
    }
    for number, row in enumerate(CalamineWorkbook.from_path(extract).get_sheet_by_name("Log").iter_rows()):
        for index, cell in enumerate(row):
            if cell != "":
                writers[type(cell)](number, index, cell)
    made.close()


if __name__ == "__main__":
    {"parquet": parquet, "arrow": arrow, "jsonl": jsonl, "workbook": workbook}[sys.argv[1]](*sys.argv[2:])
