//! Readers whose bytes are made piece by piece.

use std::io::{self, Read};

/// What makes bytes piece by piece.
pub(crate) trait ChunkSource {
    /// Writes the next piece into `piece`, which is empty; leaves it so at the end.
    ///
    /// # Errors
    /// There is more, and it cannot be made.
    fn next_piece(&mut self, piece: &mut Vec<u8>) -> io::Result<()>;
}

/// Reads what is made piece by piece.
pub(crate) struct ChunkReader<P> {
    pieces: P,
    piece: Vec<u8>,
    /// How many bytes of the piece have been returned.
    at: usize,
}

impl<P> ChunkReader<P> {
    pub(crate) fn new(pieces: P) -> Self {
        Self { pieces, piece: Vec::new(), at: 0 }
    }
}

impl<P: ChunkSource> Read for ChunkReader<P> {
    fn read(&mut self, into: &mut [u8]) -> io::Result<usize> {
        if self.at == self.piece.len() {
            self.piece.clear();
            self.at = 0;
            self.pieces.next_piece(&mut self.piece)?;
        }
        let length = (self.piece.len() - self.at).min(into.len());
        into[..length].copy_from_slice(&self.piece[self.at..self.at + length]);
        self.at += length;
        Ok(length)
    }
}
