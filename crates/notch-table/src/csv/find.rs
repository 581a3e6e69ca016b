//! The bytes that structure separated text, found many at a time.

/// How many bytes are looked at together.
pub(super) const CHUNK: usize = 64;

/// A bit for each byte of a chunk that is a quote, a line end or the separator.
pub(super) type Finder = fn(&[u8; CHUNK], u8) -> u64;

/// The fastest finder this machine has.
pub(super) fn finder() -> Finder {
    #[cfg(target_arch = "x86_64")]
    {
        if is_x86_feature_detected!("avx2") {
            return |chunk, separator| {
                // SAFETY: the features the function is compiled for have just been detected.
                #[allow(unsafe_code, reason = "functions compiled for more than every machine has are unsafe to call")]
                unsafe {
                    x86::avx2(chunk, separator)
                }
            };
        }
        return x86::sse2;
    }
    #[allow(unreachable_code, reason = "reached on other machines")]
    plain
}

/// The slow, obvious finder, which every machine has.
#[cfg_attr(target_arch = "x86_64", allow(dead_code, reason = "the twin of the fast ones"))]
pub(super) fn plain(chunk: &[u8; CHUNK], separator: u8) -> u64 {
    let structures = |byte: u8| byte == separator || matches!(byte, b'"' | b'\n' | b'\r');
    chunk.iter().enumerate().fold(0, |mask, (n, byte)| mask | u64::from(structures(*byte)) << n)
}

#[cfg(target_arch = "x86_64")]
#[allow(unsafe_code, reason = "wide loads take pointers")]
mod x86 {
    use std::arch::x86_64::{
        __m128i, __m256i, _mm_cmpeq_epi8, _mm_loadu_si128, _mm_movemask_epi8, _mm_or_si128, _mm_set1_epi8, _mm256_cmpeq_epi8,
        _mm256_loadu_si256, _mm256_movemask_epi8, _mm256_or_si256, _mm256_set1_epi8,
    };

    use super::CHUNK;

    /// Thirty-two bytes at a time.
    #[target_feature(enable = "avx2")]
    pub(super) fn avx2(chunk: &[u8; CHUNK], separator: u8) -> u64 {
        let wanted = [separator, b'"', b'\n', b'\r'].map(|byte| _mm256_set1_epi8(byte.cast_signed()));
        let half = |from: usize| {
            // SAFETY: `from` is 0 or 32 and 32 bytes are loaded, so the load stays inside the 64 bytes of the chunk; it needs no
            // alignment.
            let bytes = unsafe { _mm256_loadu_si256(chunk.as_ptr().add(from).cast::<__m256i>()) };
            let [a, b, c, d] = wanted.map(|byte| _mm256_cmpeq_epi8(bytes, byte));
            _mm256_movemask_epi8(_mm256_or_si256(_mm256_or_si256(a, b), _mm256_or_si256(c, d))).cast_unsigned()
        };
        u64::from(half(0)) | u64::from(half(32)) << 32
    }

    /// Sixteen bytes at a time, which every machine of this kind can.
    pub(super) fn sse2(chunk: &[u8; CHUNK], separator: u8) -> u64 {
        // SAFETY: SSE2 is part of x86-64. Every load is of 16 bytes at 0, 16, 32 or 48, inside the 64 bytes of the chunk, and needs
        // no alignment.
        unsafe {
            let wanted = [separator, b'"', b'\n', b'\r'].map(|byte| _mm_set1_epi8(byte.cast_signed()));
            [0_usize, 16, 32, 48].into_iter().fold(0, |mask, from| {
                let bytes = _mm_loadu_si128(chunk.as_ptr().add(from).cast::<__m128i>());
                let [a, b, c, d] = wanted.map(|byte| _mm_cmpeq_epi8(bytes, byte));
                let found = _mm_movemask_epi8(_mm_or_si128(_mm_or_si128(a, b), _mm_or_si128(c, d))).cast_unsigned();
                mask | u64::from(found) << from
            })
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Chunks of bytes in no order, held against the plain finder; few of them where a checker of memory looks on.
    #[test]
    fn every_finder_finds_what_the_plain_one_does() {
        let mut state = 1_u64;
        let mut next = || {
            // A linear congruential generator (Knuth, The Art of Computer Programming, section 3.3.4).
            state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (state >> 33) as usize
        };
        for _ in 0..if cfg!(miri) { 20 } else { 20_000 } {
            let chunk = [0; CHUNK].map(|_: u8| [b',', b'"', b'\n', b'\r', next() as u8, next() as u8][next() % 6]);
            let separator = [b',', next() as u8][next() % 2];
            let wanted = plain(&chunk, separator);
            assert_eq!(finder()(&chunk, separator), wanted, "{chunk:?}");
            #[cfg(target_arch = "x86_64")]
            assert_eq!(x86::sse2(&chunk, separator), wanted, "{chunk:?}");
        }
    }
}
