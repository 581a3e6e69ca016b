//! Which bytes of a text are which, asked of sixty-four at a time.

use wide::u8x16;

/// How many bytes are looked at together.
pub(super) const CHUNK: usize = 64;

/// How many chunks are passed on together, at most.
const TOGETHER: usize = 16;

/// The bytes of a chunk. Each answer has a bit for each of them, the first byte's the lowest.
pub(super) trait Chunk: Copy {
    /// The bytes that are this one.
    fn equal(self, byte: u8) -> u64;

    /// The bytes that are this one, or no greater than another.
    fn equal_or_at_most(self, byte: u8, most: u8) -> u64;

    /// The bits up to which, themselves included, an odd number of bits is set.
    fn odd_so_far(bits: u64) -> u64 {
        odd_so_far(bits)
    }
}

/// What is to be known of a chunk.
pub(super) trait Marks: Copy + Default {
    /// Finds it in a chunk, of which the bytes of some bits count; `byte` is one that is sought,
    /// such as the separator.
    fn find<C: Chunk>(chunk: C, byte: u8, within: u64) -> Self;
}

/// Does something with the marks of chunks that follow each other.
pub(super) trait Take {
    type Marks: Marks;

    /// Takes the marks of some chunks, of which the first begins at `base`.
    fn take(&mut self, base: usize, marks: &[Self::Marks]);
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

    /// Calls `take` with the marks of all chunks of a block; `byte` is for [`Marks::find`].
    pub(super) fn each_chunk(self, block: &[u8], byte: u8, take: &mut impl Take) {
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
                    x86::each_chunk(block, byte, take);
                }
            }
            Finder::Wide => each_chunk(block, byte, take, Sixteens),
        }
    }
}

impl Default for Finder {
    fn default() -> Self {
        Self::fastest()
    }
}

/// Goes through a block; `load` takes in a chunk.
#[inline(always)]
fn each_chunk<T: Take, C: Chunk>(
    block: &[u8],
    byte: u8,
    take: &mut T,
    load: impl Fn([u8; CHUNK]) -> C,
) {
    let (chunks, rest) = block.as_chunks::<CHUNK>();
    let mut marks = [T::Marks::default(); TOGETHER];
    for (n, chunks) in chunks.chunks(TOGETHER).enumerate() {
        for (marks, chunk) in marks.iter_mut().zip(chunks) {
            *marks = T::Marks::find(load(*chunk), byte, u64::MAX);
        }
        take.take(n * TOGETHER * CHUNK, &marks[..chunks.len()]);
    }
    if !rest.is_empty() {
        let mut last = [0; CHUNK];
        last[..rest.len()].copy_from_slice(rest);
        let within = (1 << rest.len()) - 1;
        take.take(chunks.len() * CHUNK, &[T::Marks::find(load(last), byte, within)]);
    }
}

/// The bits up to which, themselves included, an odd number of bits is set.
#[inline(always)]
pub(super) fn odd_so_far(bits: u64) -> u64 {
    [1, 2, 4, 8, 16, 32].into_iter().fold(bits, |bits, by| bits ^ bits << by)
}

/// A chunk that is looked at in sixteens.
#[derive(Clone, Copy)]
struct Sixteens([u8; CHUNK]);

impl Sixteens {
    /// A bit for each byte of those that `which` marks.
    #[inline(always)]
    fn bits(&self, which: impl Fn(u8x16) -> u8x16) -> u64 {
        let (sixteens, _) = self.0.as_chunks::<16>();
        let bits = sixteens.iter().map(|bytes| which(u8x16::new(*bytes)).to_bitmask());
        bits.enumerate().fold(0, |marks, (n, bits)| marks | u64::from(bits) << (16 * n))
    }
}

impl Chunk for Sixteens {
    #[inline(always)]
    fn equal(self, byte: u8) -> u64 {
        self.bits(|bytes| bytes.simd_eq(u8x16::splat(byte)))
    }

    #[inline(always)]
    fn equal_or_at_most(self, byte: u8, most: u8) -> u64 {
        let (byte, most) = (u8x16::splat(byte), u8x16::splat(most));
        self.bits(|bytes| bytes.simd_eq(byte) | bytes.min(most).simd_eq(bytes))
    }
}

#[cfg(target_arch = "x86_64")]
#[allow(unsafe_code, reason = "the instructions are not those that every machine has")]
mod x86 {
    use std::arch::x86_64::{
        __m256i, _mm_clmulepi64_si128, _mm_cvtsi64_si128, _mm_cvtsi128_si64, _mm256_cmpeq_epi8,
        _mm256_loadu_si256, _mm256_min_epu8, _mm256_movemask_epi8, _mm256_or_si256,
        _mm256_set1_epi8,
    };

    use super::{CHUNK, Chunk, Take};

    #[target_feature(enable = "avx2,bmi1,popcnt,pclmulqdq")]
    pub(super) fn each_chunk(block: &[u8], byte: u8, take: &mut impl Take) {
        // SAFETY: this function is compiled for what the chunk needs.
        super::each_chunk(block, byte, take, |chunk| unsafe { Halves::load(&chunk) });
    }

    /// A chunk that is looked at in halves. There is one only where AVX2 and PCLMULQDQ are.
    #[derive(Clone, Copy)]
    struct Halves(__m256i, __m256i);

    impl Halves {
        /// # Safety
        /// The machine must have AVX2 and PCLMULQDQ.
        #[inline(always)]
        unsafe fn load(chunk: &[u8; CHUNK]) -> Self {
            let (at, _) = chunk.as_chunks::<32>();
            // SAFETY: each load takes in 32 bytes that are there, and needs no alignment.
            unsafe {
                Self(
                    _mm256_loadu_si256(at[0].as_ptr().cast()),
                    _mm256_loadu_si256(at[1].as_ptr().cast()),
                )
            }
        }

        /// The highest bit of each byte of both halves.
        ///
        /// # Safety
        /// The machine must have AVX2.
        #[inline(always)]
        unsafe fn bits(low: __m256i, high: __m256i) -> u64 {
            // SAFETY: as the caller promises.
            let (low, high) = unsafe { (_mm256_movemask_epi8(low), _mm256_movemask_epi8(high)) };
            u64::from(low.cast_unsigned()) | u64::from(high.cast_unsigned()) << 32
        }

        /// The bytes of a half that are no greater than those of another.
        ///
        /// # Safety
        /// The machine must have AVX2.
        #[inline(always)]
        unsafe fn at_most(half: __m256i, most: __m256i) -> __m256i {
            // SAFETY: as the caller promises.
            unsafe { _mm256_cmpeq_epi8(_mm256_min_epu8(half, most), half) }
        }
    }

    // SAFETY of all: where there is a chunk, the machine has the instructions. They are not asked
    // for in closures: these are not always compiled in.
    impl Chunk for Halves {
        #[inline(always)]
        fn equal(self, byte: u8) -> u64 {
            unsafe {
                let byte = _mm256_set1_epi8(byte.cast_signed());
                Self::bits(_mm256_cmpeq_epi8(self.0, byte), _mm256_cmpeq_epi8(self.1, byte))
            }
        }

        #[inline(always)]
        fn equal_or_at_most(self, byte: u8, most: u8) -> u64 {
            unsafe {
                let byte = _mm256_set1_epi8(byte.cast_signed());
                let most = _mm256_set1_epi8(most.cast_signed());
                let [low, high] =
                    [_mm256_cmpeq_epi8(self.0, byte), _mm256_cmpeq_epi8(self.1, byte)];
                Self::bits(
                    _mm256_or_si256(low, Self::at_most(self.0, most)),
                    _mm256_or_si256(high, Self::at_most(self.1, most)),
                )
            }
        }

        /// By a multiplication without carries with all bits set.
        #[inline(always)]
        fn odd_so_far(bits: u64) -> u64 {
            unsafe {
                let (bits, all) = (_mm_cvtsi64_si128(bits.cast_signed()), _mm_cvtsi64_si128(-1));
                _mm_cvtsi128_si64(_mm_clmulepi64_si128::<0>(bits, all)).cast_unsigned()
            }
        }
    }
}

/// Makes a list of places at least that long.
pub(super) fn make_room(list: &mut Vec<u32>, length: usize) {
    if list.len() < length {
        list.resize(2 * length, 0);
    }
}

/// Writes the places of bits, of which the lowest stands at `base`; returns how many there are. As
/// many as are `usual` are written without asking whether there are that many; those that are not
/// will be written over. There must be room for [`CHUNK`] numbers.
#[inline(always)]
pub(super) fn write_places(to: &mut [u32], base: u32, mut bits: u64, usual: usize) -> usize {
    let (count, to) = (bits.count_ones() as usize, &mut to[..CHUNK]);
    let mut next = 0;
    let mut one = |bits: &mut u64| {
        to[next % CHUNK] = base + bits.trailing_zeros();
        *bits &= bits.wrapping_sub(1);
        next += 1;
    };
    (0..usual).for_each(|_| one(&mut bits));
    while bits != 0 {
        one(&mut bits);
    }
    count
}

#[cfg(test)]
mod tests {
    use super::*;

    /// All that can be asked of a chunk, the separator as the byte.
    #[derive(Debug, Clone, Copy, Default)]
    struct All([u64; 3]);

    impl Marks for All {
        fn find<C: Chunk>(chunk: C, byte: u8, within: u64) -> Self {
            let equal = chunk.equal(byte) & within;
            let or_less = chunk.equal_or_at_most(byte, b' ') & within;
            Self([equal, C::odd_so_far(equal) & within, or_less])
        }
    }

    /// The places of the bits of all, a list each.
    #[derive(Debug, Default, PartialEq)]
    struct Lists([Vec<usize>; 3]);

    impl Take for Lists {
        type Marks = All;

        fn take(&mut self, base: usize, marks: &[All]) {
            for (base, all) in (base..).step_by(CHUNK).zip(marks) {
                for (list, bits) in self.0.iter_mut().zip(all.0) {
                    let mut places = vec![0; CHUNK];
                    let count = write_places(&mut places, base as u32, bits, 4);
                    list.extend(places[..count].iter().map(|place| *place as usize));
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
            let byte = [b',', next() as u8, 0][next() % 3];
            let places =
                |is: &dyn Fn(usize) -> bool| (0..block.len()).filter(|at| is(*at)).collect();
            // Counted anew in each chunk.
            let is_odd = |at: usize| {
                block[at - at % CHUNK..=at].iter().filter(|other| **other == byte).count() % 2 == 1
            };
            let plain = Lists([
                places(&|at| block[at] == byte),
                places(&is_odd),
                places(&|at| block[at] == byte || block[at] <= b' '),
            ]);
            for finder in [Finder::fastest(), Finder::Wide] {
                let mut found = Lists::default();
                finder.each_chunk(&block, byte, &mut found);
                assert_eq!(found, plain, "{finder:?} of {byte} in {block:?}");
            }
        }
    }
}
