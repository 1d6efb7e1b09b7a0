//! What follows from what addresses have in common, worked out once for all that are alike.

use hashbrown::HashMap;
use ypogram_core::SummaryKey;

/// What was worked out for each kind of address.
#[derive(Debug)]
pub(crate) struct BySummaryKey<T> {
    made: Vec<(SummaryKey, T)>,
    places: HashMap<SummaryKey, u16>,
    /// For each slot the kind that was asked for last: a list has few kinds that are frequent.
    recent: [u16; SLOTS],
}

const SLOTS: usize = 512;

/// As many kinds are remembered; hardly a list has more than some hundreds.
const MOST: usize = u16::MAX as usize;

impl<T> Default for BySummaryKey<T> {
    fn default() -> Self {
        BySummaryKey { made: Vec::new(), places: HashMap::new(), recent: [0; SLOTS] }
    }
}

impl<T> BySummaryKey<T> {
    /// The place of what follows for `alike`, which `make` works out where it was not asked for before; none where there are
    /// too many kinds already.
    #[inline]
    pub(crate) fn place(&mut self, summary_key: SummaryKey, make: impl FnOnce() -> T) -> Option<usize> {
        if let Some(place) = self.recent(summary_key) {
            return Some(place);
        }
        let place = self.look_up(summary_key, make)?;
        self.recent[slot_of(summary_key)] = place;
        Some(usize::from(place))
    }

    /// The place of what follows for `alike`, where that was asked for lately.
    #[inline]
    fn recent(&self, summary_key: SummaryKey) -> Option<usize> {
        let place = usize::from(self.recent[slot_of(summary_key)]);
        self.made.get(place).filter(|(of, _)| *of == summary_key).map(|_| place)
    }

    #[cold]
    fn look_up(&mut self, summary_key: SummaryKey, make: impl FnOnce() -> T) -> Option<u16> {
        if let Some(&place) = self.places.get(&summary_key) {
            return Some(place);
        }
        if self.made.len() == MOST {
            return None;
        }
        let place = self.made.len() as u16;
        self.made.push((summary_key, make()));
        self.places.insert(summary_key, place);
        Some(place)
    }

    /// What stands at a place that [`place`](Self::place) gave.
    #[inline]
    pub(crate) fn at(&mut self, place: usize) -> &mut T {
        &mut self.made[place].1
    }
}

#[inline]
fn slot_of(summary_key: SummaryKey) -> usize {
    (summary_key.bits().wrapping_mul(0x9E37_79B9_7F4A_7C15) >> 55) as usize
}
