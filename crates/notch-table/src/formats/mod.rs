//! The formats of tables, each in and out. None of them knows of cuts: readers return records or
//! columns of text, writers take cells ([`crate::cells`]).

pub(crate) mod columnar;
pub(crate) mod csv;
pub(crate) mod databases;
pub(crate) mod json;
pub(crate) mod lines;
pub(crate) mod text_table;
pub(crate) mod workbook;
