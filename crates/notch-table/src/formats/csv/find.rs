//! The bytes that structure separated text, found many at a time.

use wide::u8x16;

/// How many bytes are looked at together.
pub(super) const CHUNK: usize = 64;

/// A bit for each byte of a chunk that is what its name says, the first byte's the lowest.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) struct Marks {
    pub separators: u64,
    pub quotes: u64,
    pub feeds: u64,
    pub returns: u64,
    /// The bytes up to which, themselves included, the number of quotes in the chunk is odd.
    pub after_odd: u64,
}

impl Marks {
    /// The marks of the four kinds, in this order, and what [`odd_so_far`] tells of the quotes.
    #[inline(always)]
    fn new([separators, quotes, feeds, returns]: [u64; 4], odd: impl Fn(u64) -> u64) -> Self {
        Self { separators, quotes, feeds, returns, after_odd: odd(quotes) }
    }

    /// The bytes that are a line end.
    #[inline(always)]
    pub(super) fn line_ends(&self) -> u64 {
        self.feeds | self.returns
    }

    /// All of them, without those after a number of bytes.
    fn up_to(self, bytes: usize) -> Self {
        let within = |marks: u64| marks & !u64::MAX.checked_shl(bytes as u32).unwrap_or(0);
        let marks = [self.separators, self.quotes, self.feeds, self.returns].map(within);
        Self::new(marks, odd_so_far)
    }
}

/// The bits up to which, themselves included, an odd number of bits is set.
#[inline(always)]
fn odd_so_far(bits: u64) -> u64 {
    [1, 2, 4, 8, 16, 32].into_iter().fold(bits, |bits, by| bits ^ bits << by)
}

/// How many chunks are passed on together, at most.
const TOGETHER: usize = 16;

/// Does something with the marks of chunks that follow each other.
pub(super) trait Take {
    /// Takes the marks of some chunks, of which the first begins at `base`.
    fn take(&mut self, base: usize, marks: &[Marks]);
}

/// How marks are found.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Finder {
    /// Thirty-two bytes at a time, on x86-64 machines that can (AVX2, PCLMULQDQ).
    #[cfg(target_arch = "x86_64")]
    Widest,
    /// Sixteen bytes at a time where there are instructions for it (SSE2 on x86-64), else one by
    /// one.
    Wide,
}

impl Finder {
    /// The fastest this machine has.
    pub(super) fn fastest() -> Self {
        #[cfg(target_arch = "x86_64")]
        if is_x86_feature_detected!("avx2")
            && is_x86_feature_detected!("bmi1")
            && is_x86_feature_detected!("popcnt")
            && is_x86_feature_detected!("pclmulqdq")
        {
            return Finder::Widest;
        }
        Finder::Wide
    }

    /// Hands the marks of all chunks of a block to `take`.
    pub(super) fn each_chunk(self, block: &[u8], separator: u8, take: &mut impl Take) {
        match self {
            #[cfg(target_arch = "x86_64")]
            Finder::Widest => {
                // SAFETY: this finder is chosen only where the features that the function is
                // compiled for have been detected.
                #[allow(
                    unsafe_code,
                    reason = "functions compiled for more than every machine has are unsafe to call"
                )]
                unsafe {
                    x86::each_chunk(block, separator, take);
                }
            }
            Finder::Wide => each_chunk(block, separator, take, wide),
        }
    }
}

/// Goes through a block; `find` finds the marks of a chunk.
#[inline(always)]
fn each_chunk(
    block: &[u8],
    separator: u8,
    take: &mut impl Take,
    find: impl Fn(&[u8; CHUNK], u8) -> Marks,
) {
    let (chunks, rest) = block.as_chunks::<CHUNK>();
    let mut marks = [Marks::default(); TOGETHER];
    for (n, chunks) in chunks.chunks(TOGETHER).enumerate() {
        for (marks, chunk) in marks.iter_mut().zip(chunks) {
            *marks = find(chunk, separator);
        }
        take.take(n * TOGETHER * CHUNK, &marks[..chunks.len()]);
    }
    if !rest.is_empty() {
        let mut last = [0; CHUNK];
        last[..rest.len()].copy_from_slice(rest);
        take.take(chunks.len() * CHUNK, &[find(&last, separator).up_to(rest.len())]);
    }
}

/// The bytes that are looked for, in the order of [`Marks::new`].
#[inline(always)]
fn wanted(separator: u8) -> [u8; 4] {
    [separator, b'"', b'\n', b'\r']
}

#[inline(always)]
fn wide(chunk: &[u8; CHUNK], separator: u8) -> Marks {
    let (sixteens, _) = chunk.as_chunks::<16>();
    let marks = wanted(separator).map(|byte| {
        let byte = u8x16::splat(byte);
        let bits =
            sixteens.iter().map(|bytes| u64::from(u8x16::new(*bytes).simd_eq(byte).to_bitmask()));
        bits.enumerate().fold(0, |marks, (n, bits)| marks | bits << (16 * n))
    });
    Marks::new(marks, odd_so_far)
}

#[cfg(target_arch = "x86_64")]
#[allow(unsafe_code, reason = "wide loads take pointers")]
mod x86 {
    use std::arch::x86_64::{
        __m256i, _mm_clmulepi64_si128, _mm_cvtsi64_si128, _mm_cvtsi128_si64, _mm256_cmpeq_epi8,
        _mm256_loadu_si256, _mm256_movemask_epi8, _mm256_set1_epi8,
    };

    use super::{CHUNK, Marks, Take, wanted};

    #[target_feature(enable = "avx2,bmi1,popcnt,pclmulqdq")]
    pub(super) fn each_chunk(block: &[u8], separator: u8, take: &mut impl Take) {
        super::each_chunk(block, separator, take, |chunk, separator| find(chunk, separator));
    }

    #[inline]
    #[target_feature(enable = "avx2,bmi1,popcnt,pclmulqdq")]
    fn find(chunk: &[u8; CHUNK], separator: u8) -> Marks {
        // SAFETY: 32 bytes are loaded from 0 and from 32, inside the 64 bytes of the chunk; the
        // loads need no alignment.
        let [first, second] = unsafe {
            [0, 32].map(|from| _mm256_loadu_si256(chunk.as_ptr().add(from).cast::<__m256i>()))
        };
        let marks = wanted(separator).map(|byte| {
            let byte = _mm256_set1_epi8(byte.cast_signed());
            let [low, high] = [first, second]
                .map(|bytes| _mm256_movemask_epi8(_mm256_cmpeq_epi8(bytes, byte)).cast_unsigned());
            u64::from(low) | u64::from(high) << 32
        });
        Marks::new(marks, |quotes| odd_so_far(quotes))
    }

    /// The same as [`super::odd_so_far`], by a multiplication without carries with all bits set.
    #[inline]
    #[target_feature(enable = "pclmulqdq")]
    fn odd_so_far(bits: u64) -> u64 {
        let (bits, all) = (_mm_cvtsi64_si128(bits.cast_signed()), _mm_cvtsi64_si128(-1));
        _mm_cvtsi128_si64(_mm_clmulepi64_si128::<0>(bits, all)).cast_unsigned()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Marks of a whole block, a list each.
    #[derive(Debug, Default, PartialEq)]
    struct All([Vec<usize>; 5]);

    impl Take for All {
        fn take(&mut self, base: usize, marks: &[Marks]) {
            for (base, of) in (base..).step_by(CHUNK).zip(marks) {
                let all = [of.separators, of.quotes, of.feeds, of.returns, of.after_odd];
                for (list, marks) in self.0.iter_mut().zip(all) {
                    list.extend((0..CHUNK).filter(|n| marks & 1 << n != 0).map(|n| base + n));
                }
            }
        }
    }

    /// Bytes in no order, held against the slow, obvious search; few of them where a checker of
    /// memory looks on.
    #[test]
    fn every_finder_finds_what_the_plain_one_does() {
        let mut state = 1_u64;
        let mut next = || {
            // A linear congruential generator (Knuth, The Art of Computer Programming, section
            // 3.3.4).
            state = state
                .wrapping_mul(6_364_136_223_846_793_005)
                .wrapping_add(1_442_695_040_888_963_407);
            (state >> 33) as usize
        };
        for _ in 0..if cfg!(miri) { 20 } else { 20_000 } {
            let block: Vec<u8> = (0..next() % if next() % 50 == 0 { 3_000 } else { 200 })
                .map(|_| [b',', b'"', b'\n', b'\r', next() as u8, next() as u8][next() % 6])
                .collect();
            let separator = [b',', next() as u8, 0][next() % 3];
            let [separators, quotes, feeds, returns]: [Vec<usize>; 4] = wanted(separator)
                .map(|byte| (0..block.len()).filter(|at| block[*at] == byte).collect());
            // Counted anew in each chunk, and on to its end.
            let is_odd = |at: &usize| {
                let before = quotes.iter().filter(|quote| (at - at % CHUNK..=*at).contains(quote));
                before.count() % 2 == 1
            };
            let odd = (0..block.len().next_multiple_of(CHUNK)).filter(is_odd).collect();
            let plain = All([separators, quotes, feeds, returns, odd]);
            for finder in [Finder::fastest(), Finder::Wide] {
                let mut found = All::default();
                finder.each_chunk(&block, separator, &mut found);
                assert_eq!(found, plain, "{finder:?} in {block:?}");
            }
        }
    }
}
