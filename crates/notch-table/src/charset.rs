//! Text of other encodings than UTF-8, in and out again.
//!
//! Bytes that are no text of their encoding are kept: in what is decoded a mark that no UTF-8 text
//! has stands before them, so that their row cannot be read and yet can be written as it stood.

use std::io::{self, Read};

use encoding_rs::{Decoder, DecoderResult, Encoder, EncoderResult, Encoding, UTF_16BE, UTF_16LE};

use crate::chunks::ChunkSource;

/// The encoding of a name or label (WHATWG, Encoding, section 4.2).
///
/// # Errors
/// A sentence that lists the nearest ones.
pub fn encoding_of(label: &str) -> Result<&'static Encoding, String> {
    /// Those an analyst is likeliest to mean.
    const USUAL: [&str; 14] = [
        "UTF-8",
        "UTF-16LE",
        "UTF-16BE",
        "windows-1250",
        "windows-1251",
        "windows-1252",
        "ISO-8859-1",
        "ISO-8859-2",
        "ISO-8859-15",
        "Shift_JIS",
        "EUC-JP",
        "GB18030",
        "Big5",
        "EUC-KR",
    ];
    let is_near = |name: &&str| {
        keen_notch_core::nearest(&label.to_lowercase(), [name.to_lowercase().as_str()]).is_some()
    };
    Encoding::for_label(label.as_bytes()).ok_or_else(|| match USUAL.iter().copied().find(is_near) {
        Some(near) => format!("the nearest is {near}; others are {}", USUAL.join(", ")),
        None => format!("some are {}", USUAL.join(", ")),
    })
}

/// How much is decoded at a time, in bytes.
const PIECE: usize = 64 * 1024;

/// Stands before the two halves of a byte that is no text of its encoding, each of them on top of
/// [`HALF`]. No UTF-8 text has it.
const NO_TEXT: u8 = 0xFF;
const HALF: u8 = 0x80;

/// The byte after a mark at the beginning of what was decoded.
pub(crate) fn kept_byte(decoded: &[u8]) -> Option<u8> {
    match decoded {
        [NO_TEXT, high @ HALF..0x90, low @ HALF..0x90, ..] => {
            Some((high - HALF) << 4 | (low - HALF))
        }
        _ => None,
    }
}

/// Text of another encoding as UTF-8.
pub(crate) struct Decoding {
    reader: Box<dyn Read + Send>,
    decoder: Decoder,
    /// What has been read and not decoded.
    raw: Vec<u8>,
    at_end: bool,
    /// The last bytes that were decoded, of which it may turn out that they are no text.
    last: Vec<u8>,
}

impl Decoding {
    pub(crate) fn new(reader: Box<dyn Read + Send>, encoding: &'static Encoding) -> Self {
        let decoder = encoding.new_decoder();
        Self { reader, decoder, raw: Vec::new(), at_end: false, last: Vec::new() }
    }

    /// Decodes what has been read next.
    fn decode(&mut self, piece: &mut Vec<u8>) -> io::Result<()> {
        self.at_end = self.reader.by_ref().take(PIECE as u64).read_to_end(&mut self.raw)? == 0;
        let mut from = 0;
        loop {
            let done = piece.len();
            let room = self
                .decoder
                .max_utf8_buffer_length_without_replacement(self.raw.len() - from)
                .unwrap_or(4 * PIECE)
                .max(16);
            piece.resize(done + room, 0);
            let (result, read, written) = self.decoder.decode_to_utf8_without_replacement(
                &self.raw[from..],
                &mut piece[done..],
                self.at_end,
            );
            piece.truncate(done + written);
            from += read;
            match result {
                DecoderResult::InputEmpty => break,
                DecoderResult::OutputFull => {}
                DecoderResult::Malformed(bad, behind) => {
                    let bad = usize::from(bad);
                    let bytes = [&self.last[..], &self.raw[..from]].concat();
                    let end = bytes.len().saturating_sub(usize::from(behind));
                    for byte in &bytes[end.saturating_sub(bad)..end] {
                        piece.extend([NO_TEXT, HALF + (byte >> 4), HALF + (byte & 0x0F)]);
                    }
                }
            }
        }
        self.last.extend_from_slice(&self.raw[..from]);
        self.last.drain(..self.last.len().saturating_sub(8));
        self.raw.drain(..from);
        Ok(())
    }
}

impl ChunkSource for Decoding {
    fn next_piece(&mut self, piece: &mut Vec<u8>) -> io::Result<()> {
        while piece.is_empty() && !self.at_end {
            self.decode(piece)?;
        }
        Ok(())
    }
}

/// UTF-8 as text of another encoding.
pub(crate) enum Encoded {
    Utf16 { is_big: bool },
    Other(Box<Encoder>),
}

impl Encoded {
    pub(crate) fn new(encoding: &'static Encoding) -> Self {
        match encoding {
            encoding if encoding == UTF_16LE => Encoded::Utf16 { is_big: false },
            encoding if encoding == UTF_16BE => Encoded::Utf16 { is_big: true },
            encoding => Encoded::Other(Box::new(encoding.new_encoder())),
        }
    }

    /// Encodes whole characters, with what was kept of bytes that are no text; `is_last` when this
    /// is all.
    ///
    /// # Errors
    /// A character that the encoding does not have.
    pub(crate) fn encode(
        &mut self,
        decoded: &[u8],
        is_last: bool,
        into: &mut Vec<u8>,
    ) -> io::Result<()> {
        for piece in decoded.utf8_chunks() {
            self.encode_text(piece.valid(), into)?;
            // Each mark is one piece that is no text, and so is each half after it.
            let at = piece.invalid().as_ptr() as usize - decoded.as_ptr() as usize;
            into.extend(kept_byte(&decoded[at..]));
        }
        match self {
            Encoded::Other(encoder) if is_last => {
                into.reserve(16);
                let from = into.len();
                into.resize(from + 16, 0);
                let (_, _, written) =
                    encoder.encode_from_utf8_without_replacement("", &mut into[from..], true);
                into.truncate(from + written);
                Ok(())
            }
            _ => Ok(()),
        }
    }

    fn encode_text(&mut self, text: &str, into: &mut Vec<u8>) -> io::Result<()> {
        match self {
            Encoded::Utf16 { is_big } => {
                let is_big = *is_big;
                into.extend(
                    text.encode_utf16().flat_map(|unit| {
                        if is_big { unit.to_be_bytes() } else { unit.to_le_bytes() }
                    }),
                );
                Ok(())
            }
            Encoded::Other(encoder) => {
                let mut rest = text;
                while !rest.is_empty() {
                    let from = into.len();
                    let room = encoder
                        .max_buffer_length_from_utf8_without_replacement(rest.len())
                        .unwrap_or(4 * rest.len())
                        .max(16);
                    into.resize(from + room, 0);
                    let (result, read, written) = encoder.encode_from_utf8_without_replacement(
                        rest,
                        &mut into[from..],
                        false,
                    );
                    into.truncate(from + written);
                    rest = &rest[read..];
                    if let EncoderResult::Unmappable(character) = result {
                        let name = encoder.encoding().name();
                        return Err(io::Error::other(format!(
                            "{character} is no character of {name}; write all of them with \
                            --to-encoding UTF-8"
                        )));
                    }
                }
                Ok(())
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use encoding_rs::{GB18030, ISO_2022_JP, ISO_8859_2, SHIFT_JIS, WINDOWS_1252};

    use super::*;
    use crate::chunks::ChunkReader;

    #[test]
    fn what_was_decoded_is_encoded_as_it_was() {
        let cases: [(&'static Encoding, &[u8], &str); 8] = [
            (WINDOWS_1252, b"caf\xE9 \x80\r\n", "caf\u{e9} \u{20ac}\r\n"),
            (ISO_8859_2, b"\xB1a", "\u{105}a"),
            (SHIFT_JIS, b"\x8E\xED\x8E\x71,\xFD,a\x81", "\u{7a2e}\u{5b50},?,a?"),
            (GB18030, b"\xD6\xD6\xFFx\x81\x30\x81", "\u{79cd}?x???"),
            (ISO_2022_JP, b"\x1B$B<o\x1B(Ba", "\u{7a2e}a"),
            (UTF_16LE, b"a\0\x3D\xD8\x00\xDE\x00\xDEb\0c", "a\u{1f600}??b?"),
            (UTF_16BE, b"\0a\xD8\x3D\0b", "a??b"),
            (UTF_16BE, b"", ""),
        ];
        for (encoding, bytes, wanted) in cases {
            // Handed in byte by byte, as a slow pipe does.
            for one_by_one in [false, true] {
                let reader: Box<dyn Read + Send> =
                    if one_by_one { Box::new(Slow(bytes)) } else { Box::new(bytes) };
                let mut decoded = Vec::new();
                ChunkReader::new(Decoding::new(reader, encoding))
                    .read_to_end(&mut decoded)
                    .unwrap();
                let text: String = decoded
                    .utf8_chunks()
                    .map(|piece| {
                        format!(
                            "{}{}",
                            piece.valid(),
                            if piece.invalid() == [NO_TEXT] { "?" } else { "" }
                        )
                    })
                    .collect();
                assert_eq!(text, wanted, "{}", encoding.name());
                let mut encoded = Vec::new();
                Encoded::new(encoding).encode(&decoded, true, &mut encoded).unwrap();
                assert_eq!(encoded, bytes, "{}", encoding.name());
            }
        }
        let error = Encoded::new(WINDOWS_1252)
            .encode("a\u{2192}".as_bytes(), true, &mut Vec::new())
            .unwrap_err();
        assert_eq!(
            error.to_string(),
            "\u{2192} is no character of windows-1252; write all of them with --to-encoding UTF-8"
        );
    }

    struct Slow(&'static [u8]);

    impl Read for Slow {
        fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
            match (self.0.split_first(), into.first_mut()) {
                (Some((first, rest)), Some(into)) => {
                    (*into, self.0) = (*first, rest);
                    Ok(1)
                }
                _ => Ok(0),
            }
        }
    }
}
