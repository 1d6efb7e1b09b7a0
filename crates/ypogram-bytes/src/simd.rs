//! Some bytes in one register: how many those are is found out when the program runs.

/// Bytes that are looked at together.
pub const BLOCK: usize = 64;

/// What can be done with all bytes of a register at once.
pub trait Simd: Copy {
    /// The bytes of one register.
    type Vector: Copy;
    /// For which of them something holds.
    type Mask: Copy;
    /// How many bytes there are; a part of [`BLOCK`].
    const WIDTH: usize;

    /// The `nth` [`WIDTH`](Self::WIDTH) bytes of a block.
    fn load(self, block: &[u8; BLOCK], nth: usize) -> Self::Vector;
    /// Puts a vector in its place of the block.
    fn store(self, bytes: Self::Vector, block: &mut [u8; BLOCK], nth: usize);
    /// Which are `byte`.
    fn is(self, bytes: Self::Vector, byte: u8) -> Self::Mask;
    /// Which are one of `ascii`, where each stands at the place that its lower four bits tell; at the other places stands
    /// one of the others.
    #[inline(always)]
    fn is_one_of(self, bytes: Self::Vector, ascii: &[u8; 16]) -> Self::Mask {
        ascii.iter().fold(self.is(bytes, ascii[0]), |marks, &one| self.or(marks, self.is(bytes, one)))
    }

    /// Which are `from` to `to`.
    fn within(self, bytes: Self::Vector, from: u8, to: u8) -> Self::Mask;
    /// Where either of them is set.
    fn or(self, a: Self::Mask, b: Self::Mask) -> Self::Mask;
    /// The same with the bit of small letters set in each byte.
    fn small(self, bytes: Self::Vector) -> Self::Vector;
    /// One bit for each byte, the first in the lowest.
    fn bits(self, marks: Self::Mask) -> u64;
    /// The bytes with those brought to lower case that are marked as capitals.
    fn lower(self, bytes: Self::Vector, capitals: Self::Mask) -> Self::Vector;
}

/// The bit that tells small letters from capitals.
pub const SMALL: u8 = 0x20;

/// Something that is done with bytes, whatever the registers. Only what is always inlined is made for them: no closures.
pub trait Kernel {
    /// What comes of it.
    type Output;

    /// Does it with these registers.
    fn run(self, simd: impl Simd) -> Self::Output;
}

/// Does `task` with registers of 32 bytes where this machine has them, else of sixteen. Those of 64 made all the rest slower
/// where they were tried: the processor lowers its clock for them.
#[inline(always)]
pub fn run<T: Kernel>(task: T) -> T::Output {
    #[cfg(target_arch = "x86_64")]
    if let Some(v3) = pulp::x86::V3::try_new() {
        return v3.vectorize(ThirtyTwo { v3, task });
    }
    task.run(Sixteen)
}

#[cfg(target_arch = "x86_64")]
struct ThirtyTwo<T> {
    v3: pulp::x86::V3,
    task: T,
}

#[cfg(target_arch = "x86_64")]
impl<T: Kernel> pulp::NullaryFnOnce for ThirtyTwo<T> {
    type Output = T::Output;

    #[inline(always)]
    fn call(self) -> T::Output {
        self.task.run(self.v3)
    }
}

/// Registers of sixteen bytes, which nearly all machines have.
#[derive(Clone, Copy)]
pub struct Sixteen;

impl Simd for Sixteen {
    type Vector = wide::u8x16;
    type Mask = wide::u8x16;
    const WIDTH: usize = 16;

    #[inline(always)]
    fn load(self, block: &[u8; BLOCK], nth: usize) -> Self::Vector {
        wide::u8x16::new(block.as_chunks().0[nth])
    }

    #[inline(always)]
    fn store(self, bytes: Self::Vector, block: &mut [u8; BLOCK], nth: usize) {
        block.as_chunks_mut().0[nth] = bytes.to_array();
    }

    #[inline(always)]
    fn is(self, bytes: Self::Vector, byte: u8) -> Self::Mask {
        bytes.simd_eq(wide::u8x16::splat(byte))
    }

    #[inline(always)]
    fn within(self, bytes: Self::Vector, from: u8, to: u8) -> Self::Mask {
        let above = bytes - wide::u8x16::splat(from);
        above.min(wide::u8x16::splat(to - from)).simd_eq(above)
    }

    #[inline(always)]
    fn or(self, a: Self::Mask, b: Self::Mask) -> Self::Mask {
        a | b
    }

    #[inline(always)]
    fn small(self, bytes: Self::Vector) -> Self::Vector {
        bytes | wide::u8x16::splat(SMALL)
    }

    #[inline(always)]
    fn bits(self, marks: Self::Mask) -> u64 {
        u64::from(marks.to_bitmask())
    }

    #[inline(always)]
    fn lower(self, bytes: Self::Vector, capitals: Self::Mask) -> Self::Vector {
        bytes | (capitals & wide::u8x16::splat(SMALL))
    }
}

/// Registers of 32 bytes, which nearly all machines of the x86-64 kind made since 2015 have.
#[cfg(target_arch = "x86_64")]
impl Simd for pulp::x86::V3 {
    type Vector = pulp::u8x32;
    type Mask = pulp::m8x32;
    const WIDTH: usize = 32;

    #[inline(always)]
    fn load(self, block: &[u8; BLOCK], nth: usize) -> Self::Vector {
        pulp::cast::<[u8; 32], _>(block.as_chunks().0[nth])
    }

    #[inline(always)]
    fn store(self, bytes: Self::Vector, block: &mut [u8; BLOCK], nth: usize) {
        block.as_chunks_mut().0[nth] = pulp::cast::<_, [u8; 32]>(bytes);
    }

    #[inline(always)]
    fn is(self, bytes: Self::Vector, byte: u8) -> Self::Mask {
        self.cmp_eq_u8x32(bytes, self.splat_u8x32(byte))
    }

    #[inline(always)]
    fn is_one_of(self, bytes: Self::Vector, ascii: &[u8; 16]) -> Self::Mask {
        // For bytes outside ASCII it gives 0, which these are not.
        let by_lower_bits = pulp::cast([*ascii; 2]);
        let same_bits = self.avx2._mm256_shuffle_epi8(by_lower_bits, pulp::cast(bytes));
        self.cmp_eq_u8x32(pulp::cast(same_bits), bytes)
    }

    #[inline(always)]
    fn within(self, bytes: Self::Vector, from: u8, to: u8) -> Self::Mask {
        let above = self.wrapping_sub_u8x32(bytes, self.splat_u8x32(from));
        self.cmp_eq_u8x32(self.min_u8x32(above, self.splat_u8x32(to - from)), above)
    }

    #[inline(always)]
    fn or(self, a: Self::Mask, b: Self::Mask) -> Self::Mask {
        self.or_m8x32(a, b)
    }

    #[inline(always)]
    fn small(self, bytes: Self::Vector) -> Self::Vector {
        self.or_u8x32(bytes, self.splat_u8x32(SMALL))
    }

    #[inline(always)]
    fn bits(self, marks: Self::Mask) -> u64 {
        u64::from(self.avx2._mm256_movemask_epi8(pulp::cast(marks)) as u32)
    }

    #[inline(always)]
    fn lower(self, bytes: Self::Vector, capitals: Self::Mask) -> Self::Vector {
        self.or_u8x32(bytes, self.and_u8x32(pulp::cast(capitals), self.splat_u8x32(SMALL)))
    }
}
