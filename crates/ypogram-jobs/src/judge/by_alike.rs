//! What follows from what addresses have in common, worked out once for all that are alike.

use hashbrown::HashMap;
use ypogram_core::Alike;

/// What was worked out for each kind of address.
#[derive(Debug)]
pub(crate) struct ByAlike<T> {
    made: Vec<(Alike, T)>,
    places: HashMap<Alike, u16>,
    /// For each slot the kind that was asked for last: a list has few kinds that are frequent.
    recent: [u16; SLOTS],
}

const SLOTS: usize = 512;

/// As many kinds are remembered; hardly a list has more than some hundreds.
const MOST: usize = u16::MAX as usize;

impl<T> Default for ByAlike<T> {
    fn default() -> Self {
        ByAlike { made: Vec::new(), places: HashMap::new(), recent: [0; SLOTS] }
    }
}

impl<T> ByAlike<T> {
    /// The place of what follows for `alike`, which `make` works out where it was not asked for before; none where there are
    /// too many kinds already.
    #[inline]
    pub(crate) fn place(&mut self, alike: Alike, make: impl FnOnce() -> T) -> Option<usize> {
        if let Some(place) = self.recent(alike) {
            return Some(place);
        }
        let place = self.look_up(alike, make)?;
        self.recent[slot_of(alike)] = place;
        Some(usize::from(place))
    }

    /// The place of what follows for `alike`, where that was asked for lately.
    #[inline]
    fn recent(&self, alike: Alike) -> Option<usize> {
        let place = usize::from(self.recent[slot_of(alike)]);
        self.made.get(place).filter(|(of, _)| *of == alike).map(|_| place)
    }

    #[cold]
    fn look_up(&mut self, alike: Alike, make: impl FnOnce() -> T) -> Option<u16> {
        if let Some(&place) = self.places.get(&alike) {
            return Some(place);
        }
        if self.made.len() == MOST {
            return None;
        }
        let place = self.made.len() as u16;
        self.made.push((alike, make()));
        self.places.insert(alike, place);
        Some(place)
    }

    /// What stands at a place that [`place`](Self::place) gave.
    #[inline]
    pub(crate) fn at(&mut self, place: usize) -> &mut T {
        &mut self.made[place].1
    }
}

#[inline]
fn slot_of(alike: Alike) -> usize {
    (alike.bits().wrapping_mul(0x9E37_79B9_7F4A_7C15) >> 55) as usize
}
