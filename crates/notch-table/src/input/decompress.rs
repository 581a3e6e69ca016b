//! Bytes verbatim in a file → the plain bytes of a table: unpacked where they are compressed, as
//! UTF-8 where they are another encoding.
//!
//! Compression is recognised by content (gzip: RFC 1952, section 2.3.1; zstd: RFC 8878,
//! section 3.1.1; bzip2: `BZh`), UTF-16 by its byte order mark (Unicode, section 23.8). Everything
//! goes by in pieces; nothing is kept.

use std::io::{self, Chain, Cursor, Read};

use encoding_rs::{Encoding, UTF_8};

use crate::charset::Decoding;
use crate::chunks::ChunkReader;
use crate::error::TableError;
use crate::options::ReadOptions;

/// How many bytes what is compressed may unpack to when nothing is said.
pub(crate) const UNPACK_LIMIT: u64 = 4 << 30;
/// The bytes that one byte of a file may unpack to where repeated values are written once.
pub(crate) const FOLD: u64 = 50;

/// The plain bytes of a table, and what is worth saying of them, one sentence each.
pub(crate) struct Plain {
    pub reader: Box<dyn Read + Send>,
    pub notices: Vec<String>,
    /// They are the bytes of the file.
    pub as_it_lies: bool,
    /// The encoding of its text.
    pub encoding: &'static Encoding,
}

/// A reader whose first bytes have been looked at.
type Peeked<R> = Chain<Cursor<Vec<u8>>, R>;

/// Reads the first bytes, as many as there are.
fn peek<R: Read>(mut reader: R, bytes: u64) -> io::Result<(Vec<u8>, Peeked<R>)> {
    let mut first = Vec::new();
    reader.by_ref().take(bytes).read_to_end(&mut first)?;
    Ok((first.clone(), Cursor::new(first).chain(reader)))
}

/// How a file is compressed.
enum Packing {
    Gzip,
    Zstd,
    Bzip2,
}

/// How a file that begins so is compressed, if it is.
fn packing(first: &[u8]) -> Option<Packing> {
    match first {
        [0x1F, 0x8B, ..] => Some(Packing::Gzip),
        // A frame, or one that is to be skipped before it (RFC 8878, section 3.1.2).
        [0x28, 0xB5, 0x2F, 0xFD, ..] | [0x50..=0x5F, 0x2A, 0x4D, 0x18, ..] => Some(Packing::Zstd),
        [b'B', b'Z', b'h', b'1'..=b'9', ..] => Some(Packing::Bzip2),
        _ => None,
    }
}

/// Whether a file that begins so is compressed.
pub(crate) fn is_packed(first: &[u8]) -> bool {
    packing(first).is_some()
}

/// The plain bytes of what a reader gives.
///
/// # Errors
/// Its first bytes cannot be read, or the encoding is unknown.
pub(crate) fn plain(
    reader: Box<dyn Read + Send>,
    name: &str,
    options: &ReadOptions,
) -> Result<Plain, TableError> {
    let unreadable = |cause| TableError::io(name, "cannot be read", cause);
    let (first, reader) = peek(reader, 4).map_err(unreadable)?;
    let reader: Box<dyn Read + Send> = match packing(&first) {
        Some(Packing::Gzip) => Box::new(flate2::read::MultiGzDecoder::new(reader)),
        Some(Packing::Zstd) => {
            Box::new(zstd::stream::read::Decoder::new(reader).map_err(unreadable)?)
        }
        Some(Packing::Bzip2) => Box::new(bzip2::read::MultiBzDecoder::new(reader)),
        None => return decoded(Box::new(reader), name, options),
    };
    let limit = options.unpack_limit.unwrap_or(UNPACK_LIMIT);
    let unpacked = decoded(Box::new(Limited { reader, left: limit, limit }), name, options)?;
    Ok(Plain { as_it_lies: false, ..unpacked })
}

/// What it gives as UTF-8.
fn decoded(
    reader: Box<dyn Read + Send>,
    name: &str,
    options: &ReadOptions,
) -> Result<Plain, TableError> {
    let (first, reader) =
        peek(reader, 3).map_err(|cause| TableError::io(name, "cannot be read", cause))?;
    let marked = Encoding::for_bom(&first).map(|(encoding, _)| encoding);
    let encoding = options.encoding.or(marked).unwrap_or(UTF_8);
    if encoding == UTF_8 {
        return Ok(Plain {
            reader: Box::new(reader),
            notices: Vec::new(),
            as_it_lies: true,
            encoding,
        });
    }
    let notices = vec![format!("{name} is read as {}.", encoding.name())];
    Ok(Plain {
        reader: Box::new(ChunkReader::new(Decoding::new(Box::new(reader), encoding))),
        notices,
        as_it_lies: false,
        encoding,
    })
}

/// The error of what unpacks to more than that many bytes.
pub(crate) fn too_much(limit: u64) -> io::Error {
    io::Error::other(format!(
        "it unpacks to more than {} MB; raise the limit with --unpack-limit",
        limit.div_ceil(1_000_000)
    ))
}

/// Unpacks no more than a limit.
struct Limited {
    reader: Box<dyn Read + Send>,
    left: u64,
    limit: u64,
}

impl Read for Limited {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        let read = self.reader.read(into)? as u64;
        match self.left.checked_sub(read) {
            Some(left) => self.left = left,
            None => return Err(too_much(self.limit)),
        }
        Ok(read as usize)
    }
}
