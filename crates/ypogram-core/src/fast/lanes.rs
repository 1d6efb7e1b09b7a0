//! Some octets in one register: how many those are is found out when the program runs.

/// Octets that are looked at together.
pub(crate) const BLOCK: usize = 64;

/// What can be done with all octets of a register at once.
pub(crate) trait Lanes: Copy {
    /// The octets of one register.
    type Octets: Copy;
    /// For which of them something holds.
    type Marks: Copy;
    /// How many octets there are; a part of [`BLOCK`].
    const WIDTH: usize;

    /// The `nth` [`WIDTH`](Self::WIDTH) octets of a block.
    fn load(self, block: &[u8; BLOCK], nth: usize) -> Self::Octets;
    fn store(self, octets: Self::Octets, block: &mut [u8; BLOCK], nth: usize);
    /// Which are `octet`.
    fn is(self, octets: Self::Octets, octet: u8) -> Self::Marks;
    /// Which are one of `ascii`, where each stands at the place that its lower four bits tell; at the other places stands
    /// one of the others.
    #[inline(always)]
    fn is_one_of(self, octets: Self::Octets, ascii: &[u8; 16]) -> Self::Marks {
        ascii.iter().fold(self.is(octets, ascii[0]), |marks, &one| self.or(marks, self.is(octets, one)))
    }

    /// Which are `from` to `to`.
    fn within(self, octets: Self::Octets, from: u8, to: u8) -> Self::Marks;
    fn or(self, a: Self::Marks, b: Self::Marks) -> Self::Marks;
    /// The same with the bit of small letters set in each byte.
    fn small(self, octets: Self::Octets) -> Self::Octets;
    /// One bit for each octet, the first in the lowest.
    fn bits(self, marks: Self::Marks) -> u64;
    /// The octets with those brought to lower case that are marked as capitals.
    fn lower(self, octets: Self::Octets, capitals: Self::Marks) -> Self::Octets;
}

/// The bit that tells small letters from capitals.
pub(crate) const SMALL: u8 = 0x20;

/// Something that is done with octets, whatever the registers. Only what is always inlined is made for them: no closures.
pub(crate) trait Task {
    type Output;

    fn run(self, lanes: impl Lanes) -> Self::Output;
}

/// Does `task` with registers of 32 octets where this machine has them, else of sixteen. Those of 64 made all the rest slower
/// where they were tried: the processor lowers its clock for them.
#[inline(always)]
pub(crate) fn run<T: Task>(task: T) -> T::Output {
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
impl<T: Task> pulp::NullaryFnOnce for ThirtyTwo<T> {
    type Output = T::Output;

    #[inline(always)]
    fn call(self) -> T::Output {
        self.task.run(self.v3)
    }
}

/// Registers of sixteen octets, which nearly all machines have.
#[derive(Clone, Copy)]
pub(crate) struct Sixteen;

impl Lanes for Sixteen {
    type Octets = wide::u8x16;
    type Marks = wide::u8x16;
    const WIDTH: usize = 16;

    #[inline(always)]
    fn load(self, block: &[u8; BLOCK], nth: usize) -> Self::Octets {
        wide::u8x16::new(block.as_chunks().0[nth])
    }

    #[inline(always)]
    fn store(self, octets: Self::Octets, block: &mut [u8; BLOCK], nth: usize) {
        block.as_chunks_mut().0[nth] = octets.to_array();
    }

    #[inline(always)]
    fn is(self, octets: Self::Octets, octet: u8) -> Self::Marks {
        octets.simd_eq(wide::u8x16::splat(octet))
    }

    #[inline(always)]
    fn within(self, octets: Self::Octets, from: u8, to: u8) -> Self::Marks {
        let above = octets - wide::u8x16::splat(from);
        above.min(wide::u8x16::splat(to - from)).simd_eq(above)
    }

    #[inline(always)]
    fn or(self, a: Self::Marks, b: Self::Marks) -> Self::Marks {
        a | b
    }

    #[inline(always)]
    fn small(self, octets: Self::Octets) -> Self::Octets {
        octets | wide::u8x16::splat(SMALL)
    }

    #[inline(always)]
    fn bits(self, marks: Self::Marks) -> u64 {
        u64::from(marks.to_bitmask())
    }

    #[inline(always)]
    fn lower(self, octets: Self::Octets, capitals: Self::Marks) -> Self::Octets {
        octets | (capitals & wide::u8x16::splat(SMALL))
    }
}

/// Registers of 32 octets, which nearly all machines of the x86-64 kind made since 2015 have.
#[cfg(target_arch = "x86_64")]
impl Lanes for pulp::x86::V3 {
    type Octets = pulp::u8x32;
    type Marks = pulp::m8x32;
    const WIDTH: usize = 32;

    #[inline(always)]
    fn load(self, block: &[u8; BLOCK], nth: usize) -> Self::Octets {
        pulp::cast::<[u8; 32], _>(block.as_chunks().0[nth])
    }

    #[inline(always)]
    fn store(self, octets: Self::Octets, block: &mut [u8; BLOCK], nth: usize) {
        block.as_chunks_mut().0[nth] = pulp::cast::<_, [u8; 32]>(octets);
    }

    #[inline(always)]
    fn is(self, octets: Self::Octets, octet: u8) -> Self::Marks {
        self.cmp_eq_u8x32(octets, self.splat_u8x32(octet))
    }

    #[inline(always)]
    fn is_one_of(self, octets: Self::Octets, ascii: &[u8; 16]) -> Self::Marks {
        // For octets outside ASCII it gives 0, which these are not.
        let by_lower_bits = pulp::cast([*ascii; 2]);
        let same_bits = self.avx2._mm256_shuffle_epi8(by_lower_bits, pulp::cast(octets));
        self.cmp_eq_u8x32(pulp::cast(same_bits), octets)
    }

    #[inline(always)]
    fn within(self, octets: Self::Octets, from: u8, to: u8) -> Self::Marks {
        let above = self.wrapping_sub_u8x32(octets, self.splat_u8x32(from));
        self.cmp_eq_u8x32(self.min_u8x32(above, self.splat_u8x32(to - from)), above)
    }

    #[inline(always)]
    fn or(self, a: Self::Marks, b: Self::Marks) -> Self::Marks {
        self.or_m8x32(a, b)
    }

    #[inline(always)]
    fn small(self, octets: Self::Octets) -> Self::Octets {
        self.or_u8x32(octets, self.splat_u8x32(SMALL))
    }

    #[inline(always)]
    fn bits(self, marks: Self::Marks) -> u64 {
        u64::from(self.avx2._mm256_movemask_epi8(pulp::cast(marks)) as u32)
    }

    #[inline(always)]
    fn lower(self, octets: Self::Octets, capitals: Self::Marks) -> Self::Octets {
        self.or_u8x32(octets, self.and_u8x32(pulp::cast(capitals), self.splat_u8x32(SMALL)))
    }
}
