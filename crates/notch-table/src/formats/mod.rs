//! The formats of tables, each in and out. None of them knows of cuts: readers return records or
//! columns of text, writers take cells ([`crate::cells`]).

mod chunk_marks;
#[cfg(feature = "parquet")]
pub(crate) mod columnar;
pub(crate) mod csv;
pub(crate) mod databases;
pub(crate) mod json;
pub(crate) mod lines;
#[cfg(not(all(
    feature = "parquet",
    feature = "workbooks",
    feature = "sqlite",
    feature = "postgres"
)))]
mod not_built;
mod special_bytes;
pub(crate) mod text_table;
#[cfg(feature = "workbooks")]
pub(crate) mod workbook;

#[cfg(not(feature = "parquet"))]
pub(crate) use not_built::columnar;
#[cfg(not(feature = "workbooks"))]
pub(crate) use not_built::{not_built, workbook};
