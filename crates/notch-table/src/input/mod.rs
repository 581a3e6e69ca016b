//! Where the bytes of a table come from: the source, archives and compression, and where the rows
//! of several files stood.

pub(crate) mod archive;
pub(crate) mod decompress;
pub(crate) mod line_map;
pub(crate) mod source;
