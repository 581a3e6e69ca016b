"""Tables of other libraries as Arrow, and back."""

from __future__ import annotations

from typing import Any, Callable

import pyarrow as pa

Back = Callable[[pa.Table], Any]


def as_reader(table: Any) -> tuple[pa.RecordBatchReader, Back]:
    """A table as record batches, and what makes a table of its own kind of Arrow.

    Taken are tables, batches and readers of pyarrow, frames of pandas and polars, and all else that
    hands out an Arrow stream (`__arrow_c_stream__`). Raises TypeError of anything else.
    """
    library = type(table).__module__.partition(".")[0]
    if isinstance(table, pa.RecordBatchReader):
        return table, _same
    if isinstance(table, pa.RecordBatch):
        return pa.Table.from_batches([table]).to_reader(), _same
    if isinstance(table, pa.Table):
        return table.to_reader(), _same
    if library == "pandas" and hasattr(table, "columns"):
        names = [name for name in table.columns if not isinstance(name, str)]
        if names:
            raise TypeError(f"the column {names[0]!r} is called by no text; rename it: frame.rename(columns=str)")
        arrow = pa.Table.from_pandas(table, preserve_index=False)
        # What pandas says of its own types does not hold for new columns.
        return arrow.replace_schema_metadata(None).to_reader(), _to_pandas
    if library == "polars" and hasattr(table, "to_arrow"):
        return _plain(table.to_arrow()).to_reader(), _to_polars
    if hasattr(table, "__arrow_c_stream__"):
        return pa.RecordBatchReader.from_stream(table), _same
    raise TypeError(
        f"{type(table).__name__} is no table: give one of pyarrow, pandas or polars, or anything that hands out an Arrow stream"
    )


def _plain(table: pa.Table) -> pa.Table:
    """The same with texts as every reader of Arrow knows them."""
    fields = []
    for field in table.schema:
        if field.type == pa.string_view():
            field = field.with_type(pa.large_string())
        fields.append(field)
    return table.cast(pa.schema(fields))


def _same(table: pa.Table) -> pa.Table:
    return table


def _to_pandas(table: pa.Table) -> Any:
    return table.to_pandas()


def _to_polars(table: pa.Table) -> Any:
    import polars

    return polars.from_arrow(table)
