//! Lines and bytes of a piece, counted from left to right.

use ypogram_io::pieces::Segment;
use ypogram_io::{Encoding, bytes_in};

/// Counts line breaks of a piece's own part from left to right.
pub(in crate::jobs) struct Lines<'a> {
    pub(in crate::jobs) bytes: &'a [u8],
    pub(in crate::jobs) start: usize,
    pub(in crate::jobs) from: usize,
    pub(in crate::jobs) count: isize,
}

impl Lines<'_> {
    #[inline]
    pub(in crate::jobs) fn up_to(&mut self, place: usize) -> isize {
        if place != self.from {
            self.count_up_to(place);
        }
        self.count
    }

    fn count_up_to(&mut self, place: usize) {
        let breaks = |from, to| memchr::memchr_iter(b'\n', &self.bytes[from..to]).count() as isize;
        // Only parts that were decoded, and what starts in front of the piece's own part, lead back.
        self.count += if place >= self.from { breaks(self.from, place) } else { -breaks(place, self.from) };
        self.from = place;
    }

    /// Takes over how many there are up to `place` where that was counted already.
    #[inline]
    pub(in crate::jobs) fn counted(&mut self, place: usize, count: isize) {
        (self.from, self.count) = (place, count);
    }

    /// The lines above a place of the segment.
    #[inline]
    pub(in crate::jobs) fn above(&mut self, segment: &Segment<'_>, place: usize) -> isize {
        match segment.line {
            Some(line) => line as isize,
            None => self.up_to(segment.places.of(place)),
        }
    }

    /// Whether the line breaks of the segment are those that are counted.
    pub(in crate::jobs) fn are_of(&self, segment: &Segment<'_>) -> bool {
        std::ptr::eq(self.bytes, segment.text) && self.start == segment.body.start
    }
}

/// Counts the bytes of a piece from left to right, in the encoding that it was decoded from.
pub(in crate::jobs) struct EncodedPlaces<'a> {
    pub(in crate::jobs) encoding: &'static Encoding,
    pub(in crate::jobs) bytes: &'a [u8],
    pub(in crate::jobs) at: usize,
    pub(in crate::jobs) counted: u64,
}

impl EncodedPlaces<'_> {
    /// Those in front of `place`.
    pub(in crate::jobs) fn of(&mut self, place: usize) -> u64 {
        if place < self.at {
            (self.at, self.counted) = (0, 0);
        }
        self.counted += bytes_in(self.encoding, &self.bytes[self.at..place]);
        self.at = place;
        self.counted
    }
}
