//! Looking for bytes that a format does not write as they are, sixteen at a time.

/// Whether one of the bytes is special: `in_chunk` says it of sixteen, `is_special` of one. Some
/// are looked at twice, so that only three bytes and less are looked at one by one.
#[inline]
pub(super) fn any_chunk(
    bytes: &[u8],
    in_chunk: impl Fn(&[u8; 16]) -> bool,
    is_special: impl Fn(u8) -> bool,
) -> bool {
    if let Some(last) = bytes.last_chunk::<16>() {
        let (chunks, _) = bytes.as_chunks::<16>();
        return chunks.iter().fold(in_chunk(last), |found, chunk| found | in_chunk(chunk));
    }
    let mut chunk = [0; 16];
    if let (Some(first), Some(last)) = (bytes.first_chunk::<8>(), bytes.last_chunk::<8>()) {
        chunk[..8].copy_from_slice(first);
        chunk[8..].copy_from_slice(last);
        return in_chunk(&chunk);
    }
    if let (Some(first), Some(last)) = (bytes.first_chunk::<4>(), bytes.last_chunk::<4>()) {
        for (n, four) in [first, last, first, last].into_iter().enumerate() {
            chunk[4 * n..4 * n + 4].copy_from_slice(four);
        }
        return in_chunk(&chunk);
    }
    bytes.iter().any(|byte| is_special(*byte))
}
