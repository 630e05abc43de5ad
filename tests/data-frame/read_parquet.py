"""Reads an export's Parquet and CSV tables with a data-frame library (polars) and compares them, value by value.

    python3 tests/data-frame/read_parquet.py site.parquet.zip site.zip
"""

import io
import json
import sys
import zipfile

import polars as pl


def main(parquet_zip: str, csv_zip: str) -> None:
    tables, csv = zipfile.ZipFile(parquet_zip), zipfile.ZipFile(csv_zip)
    compared = 0
    for name in tables.namelist():
        columns = pl.read_parquet(io.BytesIO(tables.read(name)))
        text = pl.read_csv(io.BytesIO(csv.read(name.replace(".parquet", ".csv"))), infer_schema=False)
        assert columns.columns == text.columns, name
        assert columns.height == text.height, (name, columns.height, text.height)
        for column in columns.columns:
            for row, (value, cell) in enumerate(zip(columns[column], text[column])):
                assert same(value, cell), (name, column, row, value, cell)
                compared += 1
    print(f"{len(tables.namelist())} tables, {compared} values, all alike")


def same(value, cell) -> bool:
    if value is None or value == "":
        return cell in (None, "")
    if isinstance(value, float):
        return float(cell) == value
    if isinstance(value, str):
        # In CSV an apostrophe stands before what a spreadsheet would run; JSON cells are alike as JSON.
        if cell == value or cell == "'" + value:
            return True
        return value[:1] in "[{" and json.loads(cell) == json.loads(value)
    return abs(pl.Series([cell]).str.to_datetime(time_zone="UTC", time_unit="ms")[0] - value).total_seconds() < 0.001


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2])
