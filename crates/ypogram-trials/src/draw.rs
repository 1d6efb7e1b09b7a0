//! Random choices that can be repeated.

/// Numbers that look random and are the same for the same seed.
#[derive(Debug)]
pub struct Draw(u64);

impl Draw {
    /// From this seed.
    pub fn new(seed: u64) -> Self {
        Draw(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ 0x5851_F42D_4C95_7F2D)
    }

    /// A number below `most`.
    pub fn below(&mut self, most: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) as usize % most
    }

    /// One of them.
    pub fn of<'i, T>(&mut self, items: &'i [T]) -> &'i T {
        &items[self.below(items.len())]
    }
}
